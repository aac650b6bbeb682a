<script lang="ts">
	/**
	 * The fingerprint of a measured item: five stems on one line, each as tall as its reading; a short tick where nothing
	 * was measured. From left: output, headroom, gain span, tightness, brightness.
	 */
	import { createQuery } from '@tanstack/svelte-query';
	import { api, got, type Ray } from '../api/client';

	let {
		gear = null,
		rays = null,
		large = false
	}: { gear?: number | null; rays?: Ray[] | null; large?: boolean } = $props();
	const all = createQuery(() => ({
		queryKey: ['fingerprints'],
		queryFn: () => got(api.GET('/api/fingerprints')),
		enabled: rays === null && gear !== null,
		staleTime: 30_000
	}));
	const shown = $derived(rays ?? all.data?.find((one) => one.gear_id === gear)?.rays ?? []);
	const label = $derived(shown.map((ray) => ray.text).join('. '));
	const height = $derived(large ? 64 : 20);
	const step = $derived(large ? 22 : 6);
	const radius = $derived(large ? 5 : 2);
	const top = (place: number) => height - 3 - place * (height - 4 - radius);
</script>

{#if shown.length}
	<svg width={step * 5 + 2} {height} role="img" aria-label="Fingerprint. {label}" class="shrink-0 inline-block">
		<title>{label}</title>
		<line x1="0" x2={step * 5 + 2} y1={height - 1} y2={height - 1} stroke="currentColor" opacity="0.45" />
		{#each shown as ray, i (ray.key)}
			{@const x = step * i + step / 2 + 1}
			{#if ray.place === null}
				<line x1={x} x2={x} y1={height - 1} y2={height - 4} stroke="currentColor" opacity="0.45" />
			{:else}
				<line x1={x} x2={x} y1={height - 1} y2={top(ray.place)} stroke="currentColor" stroke-width={large ? 4 : 2} />
				<circle cx={x} cy={top(ray.place)} r={radius} fill="currentColor" />
			{/if}
		{/each}
	</svg>
{/if}
