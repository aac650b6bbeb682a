<script lang="ts">
	/** Readings: what is different? Spectra over each other or as differences, regions, and the table. */
	import { createQuery } from '@tanstack/svelte-query';
	import { api, got, type ReadingRow, type Readings } from '$lib/api/client';
	import { player } from '$lib/audio/player.svelte';
	import Empty from '$lib/parts/Empty.svelte';
	import Loading from '$lib/parts/Loading.svelte';
	import Token from '$lib/parts/Token.svelte';
	import Table from '$lib/parts/Table.svelte';
	import { useFlight } from '../flight.svelte';

	const flight = useFlight();
	const data = $derived(flight.data!);
	let chosenTest = $state<number | null>(null);
	let against = $state<number | null>(null);
	let sortKey = $state<string | null>(null);
	let falling = $state(true);
	let family = $state('');

	const ready = $derived(
		data.tests.filter((test) => data.takes.some((t) => t.test_id === test.id && t.state === 'ready'))
	);
	const testId = $derived(
		ready.find((test) => (chosenTest !== null ? test.id === chosenTest : player.pours('flight', flight.id, test.id)))
			?.id ??
			ready[0]?.id ??
			null
	);
	const readings = createQuery(() => ({
		queryKey: ['readings', flight.id, testId, against],
		enabled: testId !== null,
		placeholderData: (before: Readings | undefined) => before,
		queryFn: () =>
			got(
				api.GET('/api/flights/{flight_id}/readings/{test_id}', {
					params: { path: { flight_id: flight.id, test_id: testId! }, query: against ? { against } : {} }
				})
			)
	}));

	const order = $derived.by(() => {
		const ids = readings.data?.spectra.map((one) => one.contender_id) ?? [];
		const row = readings.data?.rows.find((one) => one.key === sortKey);
		if (!row) return ids;
		const value = (id: number) => row.cells.find((cell) => cell.contender_id === id)?.value ?? null;
		return [...ids].sort((a, b) => {
			const x = value(a);
			const y = value(b);
			if (x === null || y === null) return x === y ? 0 : x === null ? 1 : -1;
			return falling ? y - x : x - y;
		});
	});
	const rows = $derived(readings.data?.rows.filter((row) => !family || row.family === family) ?? []);
	const families = $derived([...new Set(readings.data?.rows.map((row) => row.family) ?? [])]);
	const cellOf = (row: ReadingRow, id: number) => row.cells.find((cell) => cell.contender_id === id);
	const bands = $derived(
		readings.data?.region_names.map((name, i) => ({
			name: name.split(',')[0] ?? name,
			from: readings.data!.region_edges_hz[i] ?? 0,
			to: readings.data!.region_edges_hz[i + 1] ?? 0
		})) ?? []
	);

	function sortBy(key: string) {
		if (sortKey === key) falling = !falling;
		else {
			sortKey = key;
			falling = true;
		}
	}
</script>

{#if testId === null}
	<Empty title="No readings yet">
		<p>Readings appear by themselves once recordings are placed in the table.</p>
		<a class="btn btn-sm" href="/flights/{flight.id}/takes">To the takes</a>
	</Empty>
{:else if !readings.data}
	<Loading error={readings.error} retry={() => readings.refetch()} />
{:else}
	{@const all = readings.data}
	<div class="flex flex-wrap gap-3 items-end mb-3">
		<label class="flex flex-col text-sm"
			>Test
			<select
				class="select select-sm w-52"
				value={testId}
				onchange={(event) => (chosenTest = Number(event.currentTarget.value))}>
				{#each ready as test (test.id)}<option value={test.id}>{test.name}</option>{/each}
			</select>
		</label>
		<label class="flex flex-col text-sm"
			>Against
			<select class="select select-sm w-52" bind:value={against}>
				<option value={null}>nothing: as they are</option>
				{#each data.contenders as one (one.id)}<option value={one.id}>{one.letter} {one.name}</option>{/each}
			</select>
		</label>
		<div class="flex flex-wrap gap-1" role="group" aria-label="Hear">
			{#each order as id (id)}
				{@const one = flight.contender(id)}
				{#if one}
					<button
						class="btn btn-sm {player.hears(id) && player.pours('flight', flight.id, testId)
							? 'border-primary border-2'
							: ''}"
						onclick={() => player.pour(flight.id, testId, id, true)}>
						<Token letter={one.letter} colour={one.colour} size="s" />{one.name}
					</button>
				{/if}
			{/each}
		</div>
	</div>

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
					curves={all.spectra
						.filter((one) => one.contender_id !== all.against)
						.map((one) => {
							const row = flight.contender(one.contender_id);
							return {
								name: row?.name ?? '',
								colour: row?.colour ?? 0,
								y: one.levels_db,
								strong: player.hears(one.contender_id)
							};
						})} />
			</section>
			<section aria-label="Regions" class="min-w-0">
				<h2 class="mb-1">{all.against ? 'Regions, difference in dB' : 'Share of each region, dB'}</h2>
				<RegionBars
					names={all.region_names}
					difference={all.against !== null}
					title="Regions of the contenders; the table below holds the same in numbers"
					rows={all.regions
						.filter((one) => one.contender_id !== all.against)
						.map((one) => {
							const row = flight.contender(one.contender_id);
							return {
								name: row?.name ?? '',
								letter: row?.letter ?? '',
								colour: row?.colour ?? 0,
								values: one.values_db
							};
						})} />
			</section>
		</div>
	{/await}

	<div class="flex gap-2 items-center mt-6 mb-1">
		<h2 class="grow">All readings</h2>
		<label class="text-sm flex items-center gap-2"
			>Show
			<select class="select select-sm w-36" bind:value={family}>
				<option value="">all</option>
				{#each families as one (one)}<option>{one}</option>{/each}
			</select>
		</label>
	</div>
	<p class="quiet text-sm mb-2">{all.repeatability} Choose a reading’s name to sort the contenders by it.</p>
	<Table label="Readings">
		<thead>
			<tr>
				<th scope="col">Reading</th>
				<th scope="col" class="text-right">noticed from</th>
				{#each order as id (id)}
					{@const one = flight.contender(id)}
					<th scope="col" class="text-right">
						<span class="inline-flex items-center gap-1.5"
							><Token letter={one?.letter ?? ''} colour={one?.colour ?? 0} size="s" />{one?.name}</span>
					</th>
				{/each}
			</tr>
		</thead>
		<tbody>
			{#each rows as row (row.key)}
				<tr class="hover:bg-base-200 align-top">
					<th
						scope="row"
						class="font-normal min-w-52"
						aria-sort={sortKey === row.key ? (falling ? 'descending' : 'ascending') : undefined}>
						<button class="text-left" onclick={() => sortBy(row.key)} title={row.about}>
							<span class="font-semibold">{row.name}</span>{row.part ? `, ${row.part}` : ''}
							{#if sortKey === row.key}<span aria-hidden="true">{falling ? '↓' : '↑'}</span>{/if}
						</button>
						<span class="block text-xs quiet">{row.less} ↔ {row.more} · {row.source}</span>
					</th>
					<td class="text-right figures quiet whitespace-nowrap">{row.jnd_text}</td>
					{#each order as id (id)}
						{@const cell = cellOf(row, id)}
						<td class="text-right">
							{#if cell?.text}
								<span
									class="figures whitespace-nowrap {cell.trust === 'unsure' ? 'quiet' : ''} {cell.trust === 'heard'
										? 'font-semibold'
										: ''}"
									title={cell.flag?.words}>{cell.text}{cell.flag ? ' *' : ''}</span>
								{#if cell.difference_text}<span class="block text-xs {cell.trust === 'heard' ? '' : 'quiet'}"
										>{cell.difference_text}</span
									>{/if}
								{#if cell.trust === 'reference'}<span class="block text-xs quiet">compared with this</span>{/if}
							{:else}
								<span class="text-xs quiet inline-block max-w-48" title={cell?.refusal?.words}
									>refused: {cell?.refusal?.words}</span>
							{/if}
						</td>
					{/each}
				</tr>
			{/each}
		</tbody>
	</Table>
	<p class="text-sm quiet mt-2">* has a doubt: point at the value to read it. Evidence of all values: from playing.</p>
{/if}
