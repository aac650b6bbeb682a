<script lang="ts">
	/** All readings of a test: values with their doubt, differences that can be trusted or not. */
	import type { ReadingRow, Readings } from '$lib/api/client';
	import Doubt from '$lib/parts/Doubt.svelte';
	import Table from '$lib/parts/Table.svelte';
	import Token from '$lib/parts/Token.svelte';
	import type { FlightState } from '../flight.svelte';

	type Props = {
		flight: FlightState;
		all: Readings;
		order: number[];
		sortKey: string | null;
		falling: boolean;
		onsort: (key: string) => void;
	};
	let { flight, all, order, sortKey, falling, onsort }: Props = $props();
	let family = $state('');
	const mine = $derived(all.rows.filter((row) => !family || row.family === family));
	const rows = $derived(mine.filter((row) => row.cells.some((cell) => cell.text)));
	/** What no take shows: one line each, with the reason once where it is the same for all. */
	const unread = $derived(
		mine
			.filter((row) => !row.cells.some((cell) => cell.text))
			.map((row) => ({
				name: row.part ? `${row.name}, ${row.part}` : row.name,
				why: [...new Set(row.cells.map((cell) => cell.refusal?.words ?? ''))].join('; ')
			}))
	);
	/** Values that differ by less than can be noticed are not to catch the eye. */
	const near = (row: ReadingRow) => row.spread !== null && row.noticed !== null && row.spread < row.noticed;
	/** Every doubt once, by its number in the table. */
	const doubts = $derived([
		...new Set(rows.flatMap((row) => order.flatMap((id) => cellOf(row, id)?.flag?.words ?? [])))
	]);
	const families = $derived([...new Set(all.rows.map((row) => row.family))]);
	const cellOf = (row: ReadingRow, id: number) => row.cells.find((cell) => cell.contender_id === id);
</script>

<div class="flex gap-2 items-center mt-6 mb-1">
	<h2 class="grow">All readings</h2>
	<label class="text-sm flex items-center gap-2 no-print"
		>Show
		<select class="select select-sm w-36" bind:value={family}>
			<option value="">all</option>
			{#each families as one (one)}<option>{one}</option>{/each}
		</select>
	</label>
</div>
<p class="quiet text-sm mb-2">
	{all.repeatability.words}
	<span class="no-print">Choose a reading’s name to sort the contenders by it.</span>
</p>
<Table label="Readings" outside="max-h-[80vh] print:max-h-none">
	<thead class="sticky top-0 bg-base-100 z-20">
		<tr>
			<th scope="col" class="sticky left-0 bg-base-100">Reading</th>
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
			<tr class="hover:bg-base-200 align-top {near(row) ? 'quiet' : ''}">
				<th
					scope="row"
					class="font-normal min-w-52 sticky left-0 bg-base-100 z-10"
					aria-sort={sortKey === row.key ? (falling ? 'descending' : 'ascending') : undefined}>
					<button class="text-left" onclick={() => onsort(row.key)} title={row.about}>
						<span class="font-semibold">{row.name}</span>{row.part ? `, ${row.part}` : ''}
						{#if sortKey === row.key}<span aria-hidden="true">{falling ? '↓' : '↑'}</span>{/if}
					</button>
					{#if sortKey === row.key}<span class="block text-xs">{row.about}</span>{/if}
					<span class="block text-xs quiet">{row.less} ↔ {row.more}{near(row) ? ' · nothing to notice' : ''}</span>
				</th>
				<td class="text-right figures quiet whitespace-nowrap">{row.jnd_text}</td>
				{#each order as id (id)}
					{@const cell = cellOf(row, id)}
					<td class="text-right">
						{#if cell?.text}
							<span
								class="figures whitespace-nowrap {cell.trust === 'unsure' ? 'quiet' : ''} {cell.trust === 'heard'
									? 'font-semibold'
									: ''}">{cell.text}</span>
							{#if cell.flag}<Doubt words={cell.flag.words} number={doubts.indexOf(cell.flag.words) + 1} />{/if}
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
{#if doubts.length}
	<ol class="text-sm quiet mt-3 list-decimal pl-5" aria-label="Doubts">
		{#each doubts as one (one)}<li>{one}</li>{/each}
	</ol>
{/if}
{#if unread.length}
	<ul class="text-sm quiet mt-3" aria-label="Not to be read in this test">
		{#each unread as one (one.name)}<li><span class="font-semibold">{one.name}</span>: {one.why}</li>{/each}
	</ul>
{/if}
