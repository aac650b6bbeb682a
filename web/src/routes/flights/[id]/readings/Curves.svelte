<script lang="ts">
	/** Spectra over each other and the share of each region, as they are or as differences. */
	import type { Readings } from '$lib/api/client';
	import { player } from '$lib/audio/player.svelte';
	import type { FlightState } from '../flight.svelte';

	let { flight, all }: { flight: FlightState; all: Readings } = $props();
	const bands = $derived(
		all.region_names.map((name, i) => ({
			name: name.split(',')[0] ?? name,
			from: all.region_edges_hz[i] ?? 0,
			to: all.region_edges_hz[i + 1] ?? 0
		}))
	);
	/** What is shown of each contender but the one that all are held against. */
	function of<T extends { contender_id: number }>(views: T[]) {
		return views
			.filter((one) => one.contender_id !== all.against)
			.flatMap((one) => {
				const row = flight.contender(one.contender_id);
				return row ? [{ one, row }] : [];
			});
	}
</script>

{#await Promise.all([import('$lib/charts/LineChart.svelte'), import('$lib/charts/RegionBars.svelte')])}
	<p class="quiet h-[300px]">Drawing…</p>
{:then [{ default: LineChart }, { default: RegionBars }]}
	<div class="grid gap-4 xl:grid-cols-[3fr_2fr]">
		<section aria-label="Spectra" class="min-w-0">
			<h2 class="mb-1">
				{all.against
					? `Spectrum, difference from ${flight.contender(all.against)?.name}`
					: 'Spectrum at equal loudness'}
			</h2>
			<LineChart
				x={all.hz}
				logX
				xLabel="Hz"
				yLabel="dB"
				zero={all.against !== null}
				depth={60}
				{bands}
				height={300}
				title="Spectra of the contenders; the table below holds the same in numbers"
				curves={of(all.spectra).map(({ one, row }) => ({
					name: row.name,
					colour: row.colour,
					y: one.levels_db,
					strong: player.hears(row.id)
				}))} />
		</section>
		<section aria-label="Regions" class="min-w-0">
			<h2 class="mb-1">{all.against ? 'Regions, difference in dB' : 'Share of each region, dB'}</h2>
			<RegionBars
				names={all.region_names}
				difference={all.against !== null}
				title="Regions of the contenders; the table below holds the same in numbers"
				rows={of(all.regions).map(({ one, row }) => ({ ...row, values: one.values_db }))} />
		</section>
	</div>
{/await}
