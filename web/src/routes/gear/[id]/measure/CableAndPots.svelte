<script lang="ts">
	/** What a cable and pots make of a pickup's coil: its peak, drawn as it moves. */
	import { createQuery } from '@tanstack/svelte-query';
	import { api, got } from '$lib/api/client';
	import LineChart from '$lib/charts/LineChart.svelte';

	let { gear }: { gear: number } = $props();
	let cable = $state(4.5);
	let pots = $state(250);
	const POTS = [250, 300, 500, 1000];
	const read = (metres: number, kohm: number) => ({
		queryKey: ['loading', gear, metres, kohm],
		placeholderData: (last: unknown) => last as never,
		queryFn: () =>
			got(
				api.GET('/api/gear/{gear_id}/loading', {
					params: { path: { gear_id: gear }, query: { cable_m: metres, volume_kohm: kohm, tone_kohm: kohm } }
				})
			)
	});
	const found = createQuery(() => read(cable, pots));
	const bare = createQuery(() => read(0.5, pots));
	const y = (curve: number[][]) => curve.map((point) => point[1] ?? null);
</script>

<section aria-labelledby="loading" class="mb-8 max-w-3xl">
	<h2 id="loading" class="mb-1">Cable and pots</h2>
	{#if found.data?.missing}
		<p class="quiet">Not known: {found.data.missing}. <a class="underline" href="/gear/{gear}">Specification</a></p>
	{:else if found.data && bare.data}
		<div class="flex flex-wrap gap-6 mb-2 items-end">
			<label class="flex flex-col text-sm grow max-w-80"
				>Cable: {cable} m
				<input class="range range-xs range-primary" type="range" min="0" max="15" step="0.5" bind:value={cable} />
			</label>
			<label class="flex flex-col text-sm"
				>Volume and tone pot
				<select class="select select-sm w-32" bind:value={pots}>
					{#each POTS as one (one)}<option value={one}>{one} kΩ</option>{/each}
				</select>
			</label>
		</div>
		<p class="text-lg" role="status">{found.data.sentence}</p>
		<LineChart
			x={found.data.curve.map((point) => point[0] ?? 0)}
			curves={[
				{ name: `${cable} m of cable`, colour: 0, y: y(found.data.curve), strong: true },
				{ name: 'half a metre', colour: 1, y: y(bare.data.curve), strong: false }
			]}
			xLabel="Hz"
			yLabel="dB"
			logX
			height={180}
			title="Response of the coil with {cable} m of cable, and with half a metre" />
		<p class="text-xs quiet">From its specification, cable at 100 pF a metre into 1 MΩ, knobs full up.</p>
	{/if}
</section>
