<script lang="ts">
	/** All readings of a test: values with their doubt, differences that can be trusted or not. */
	import type { ReadingRow, Readings } from '$lib/api/client';
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
	const rows = $derived(all.rows.filter((row) => !family || row.family === family));
	const families = $derived([...new Set(all.rows.map((row) => row.family))]);
	const cellOf = (row: ReadingRow, id: number) => row.cells.find((cell) => cell.contender_id === id);
</script>

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
<p class="quiet text-sm mb-2">{all.repeatability.words} Choose a reading’s name to sort the contenders by it.</p>
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
					<button class="text-left" onclick={() => onsort(row.key)} title={row.about}>
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
