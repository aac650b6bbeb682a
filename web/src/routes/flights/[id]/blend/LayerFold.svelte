<script lang="ts">
	/** Layers: two to four takes over each other, what builds up, and how that sounds with one of them left out. */
	import Pause from '@lucide/svelte/icons/pause';
	import Play from '@lucide/svelte/icons/play';
	import { createQuery } from '@tanstack/svelte-query';
	import { onMount, untrack } from 'svelte';
	import { api, got } from '$lib/api/client';
	import { arrows } from '$lib/arrows';
	import { Layers } from '$lib/audio/layers.svelte';
	import { REGIONS } from '$lib/regions';
	import { useFlight } from '../flight.svelte';

	const MOST = 4;
	let { testId, onplay }: { testId: number; onplay: () => void } = $props();
	const flight = useFlight();
	const layers = new Layers();
	let open = $state(false);
	let chosen = $state<number[]>([]);
	const rows = $derived(flight.heardIn(testId));
	const laid = $derived(chosen.filter((ident) => rows.some((one) => one.id === ident)));
	const path = $derived({ flight_id: flight.id, test_id: testId });
	const found = createQuery(() => ({
		queryKey: ['layers', flight.id, testId, laid],
		enabled: open && laid.length > 1,
		queryFn: () =>
			got(api.GET('/api/flights/{flight_id}/together/{test_id}/layers', { params: { path, query: { of: laid } } }))
	}));
	const tray = createQuery(() => ({
		queryKey: ['tray', flight.id, testId, 'equal'],
		enabled: open,
		queryFn: () =>
			got(api.GET('/api/flights/{flight_id}/tray/{test_id}', { params: { path, query: { school: 'equal' } } }))
	}));
	const takes = $derived(laid.flatMap((ident) => tray.data?.takes.filter((take) => take.contender_id === ident) ?? []));

	$effect(() => {
		const mine = takes;
		if (mine.length > 1) untrack(() => void layers.load(mine));
	});
	onMount(() => () => layers.close());

	function choose(ident: number) {
		chosen = laid.includes(ident) ? laid.filter((one) => one !== ident) : [...laid, ident].slice(-MOST);
	}
	function play() {
		if (!layers.playing) onplay();
		void layers.toggle();
	}
	export function pause() {
		layers.pause();
	}
</script>

<details class="mt-6" bind:open>
	<summary class="cursor-pointer w-fit text-lg font-semibold">Layers of two to four</summary>
	<div class="flex flex-wrap gap-2 my-3" role="group" aria-label="Laid over each other" {@attach arrows}>
		{#each rows as one (one.id)}
			<button
				class="btn {laid.includes(one.id) ? 'btn-neutral border-primary border-2' : ''}"
				aria-pressed={laid.includes(one.id)}
				onclick={() => choose(one.id)}>{one.name}</button>
		{/each}
	</div>
	{#if laid.length < 2}
		<p class="quiet">Choose two to four. Each is as loud as the others.</p>
	{:else}
		<div class="flex flex-wrap gap-3 items-center mb-3">
			<button
				class="btn btn-primary"
				disabled={layers.loading}
				onclick={play}
				aria-label={layers.playing ? 'Pause the layers' : 'Play the layers'}>
				{#if layers.playing}<Pause size={18} />{:else}<Play size={18} />{/if}
			</button>
			{#each takes as take (take.key)}
				<label class="flex gap-2 items-center">
					<input
						type="checkbox"
						class="checkbox"
						checked={layers.on[take.key] ?? true}
						onchange={() => layers.turn(take.key)} />
					{take.name}
				</label>
			{/each}
		</div>
		<div role="status" class="min-h-12">
			{#if found.error}
				<p class="text-error">{found.error.message}</p>
			{:else if found.data}
				{#each found.data.said as one, n (n)}<p class="text-lg">{one.words}</p>{/each}
				<p class="flex flex-wrap gap-x-3 text-sm figures">
					{#each REGIONS as [key, name] (key)}
						<span class="whitespace-nowrap"
							><span class="quiet">{name}</span>
							{(found.data.built_db[key] ?? 0).toFixed(1).replace('-', '−')} dB</span>
					{/each}
				</p>
			{:else}
				<p class="quiet">Adding them up…</p>
			{/if}
		</div>
	{/if}
</details>
