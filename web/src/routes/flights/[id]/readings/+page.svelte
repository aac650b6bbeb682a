<script lang="ts">
	/** Readings: what is different? Spectra over each other or as differences, regions, and the table. */
	import { createQuery } from '@tanstack/svelte-query';
	import { api, got, type Readings } from '$lib/api/client';
	import { arrows } from '$lib/arrows';
	import { player } from '$lib/audio/player.svelte';
	import Empty from '$lib/parts/Empty.svelte';
	import Loading from '$lib/parts/Loading.svelte';
	import TakeOut from '$lib/parts/TakeOut.svelte';
	import Sentences from '$lib/parts/Sentences.svelte';
	import Token from '$lib/parts/Token.svelte';
	import { useFlight } from '../flight.svelte';
	import Curves from './Curves.svelte';
	import ReadingsTable from './ReadingsTable.svelte';

	const flight = useFlight();
	const data = $derived(flight.data!);
	let chosenTest = $state<number | null>(null);
	// Until one is chosen, everything is shown as the difference from the bypass.
	let chosenBase = $state<number | null | undefined>(undefined);
	const against = $derived(
		chosenBase !== undefined ? chosenBase : (data.contenders.find((one) => one.is_bypass)?.id ?? null)
	);
	let sortKey = $state<string | null>(null);
	let falling = $state(true);

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

	const told = createQuery(() => ({
		queryKey: ['differences', flight.id, testId],
		enabled: testId !== null,
		queryFn: () =>
			got(
				api.GET('/api/flights/{flight_id}/differences/{test_id}', {
					params: { path: { flight_id: flight.id, test_id: testId! } }
				})
			)
	}));
	let more = $state(false);
	const FIRST = 4;
	const sentences = $derived([...(told.data?.differences ?? []), ...(told.data?.alike ?? [])]);
	const shown = $derived.by(() => {
		if (more || !told.data) return sentences;
		const alike = told.data.alike.slice(0, 2);
		return [...told.data.differences.slice(0, FIRST + 2 - alike.length), ...alike];
	});

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
	<p class="only-print text-lg font-semibold">
		{data.name}: {flight.test(testId)?.name}{against ? `, against ${flight.contender(against)?.name}` : ''}
	</p>
	<div class="flex flex-wrap gap-3 items-end mb-3 no-print">
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
			<select
				class="select select-sm w-52"
				value={String(against ?? '')}
				onchange={(event) => (chosenBase = Number(event.currentTarget.value) || null)}>
				<option value="">nothing: as they are</option>
				{#each data.contenders as one (one.id)}<option value={String(one.id)}>{one.letter} {one.name}</option>{/each}
			</select>
		</label>
		<div class="flex flex-wrap gap-1" role="group" aria-label="Hear" {@attach arrows}>
			{#each order as id (id)}
				{@const one = flight.contender(id)}
				{#if one}
					<button
						class="btn btn-sm {player.hears(id) && player.pours('flight', flight.id, testId)
							? 'border-primary border-2'
							: ''}"
						onclick={() => player.pour(flight.id, testId, id, true)}>
						<kbd class="hint">{one.number}</kbd><Token letter={one.letter} colour={one.colour} size="s" />{one.name}
					</button>
				{/if}
			{/each}
		</div>
		<span class="grow"></span>
		<TakeOut
			name="readings"
			csv="/api/out/flights/{flight.id}/readings/{testId}.csv{against ? `?against=${against}` : ''}"
			json="/api/flights/{flight.id}/readings/{testId}{against ? `?against=${against}` : ''}" />
	</div>

	<section aria-label="What is different" class="mb-6 max-w-5xl">
		{#if told.data && !sentences.length}
			<p class="text-xl font-semibold">Nothing differs here that could be trusted.</p>
		{:else}
			<Sentences flightId={flight.id} sentences={shown} label="What is different" />
		{/if}
		{#if sentences.length > shown.length || more}
			<button class="btn btn-ghost btn-sm mt-1 no-print" onclick={() => (more = !more)}
				>{more ? 'The most important only' : `All ${sentences.length}`}</button>
		{/if}
	</section>

	<Curves {flight} {all} />

	<ReadingsTable {flight} {all} {order} {sortKey} {falling} onsort={sortBy} />
	<p class="text-sm quiet mt-2">Evidence of all values: from playing.</p>
{/if}
