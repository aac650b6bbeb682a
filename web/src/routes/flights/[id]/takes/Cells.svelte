<script lang="ts">
	/** The table of a flight with its takes: arrows move among cells, Enter picks up and puts down. */
	import Table from '$lib/parts/Table.svelte';
	import Token from '$lib/parts/Token.svelte';
	import type { FlightState } from '../flight.svelte';
	import { INTERNAL, type Cell } from './moving';
	import TakeChip from './TakeChip.svelte';

	type Props = {
		flight: FlightState;
		held: number | null;
		/** The cell into which the next file goes. */
		wanted: Cell | null;
		pick: (take: number) => void;
		put: (take: number, contender: number, test: number) => void;
		ondrop: (event: DragEvent, contender: number, test: number) => void;
		onwant: (cell: Cell | null) => void;
	};
	let { flight, held, wanted, pick, put, ondrop, onwant }: Props = $props();
	const data = $derived(flight.data!);
	const isWanted = (contender: number, test: number) =>
		wanted !== null && wanted.contender === contender && wanted.test === test;
</script>

<Table label="Cells" look="border-collapse">
	<thead>
		<tr class="border-b rule">
			<th></th>
			{#each data.tests as test (test.id)}<th scope="col" class="text-left px-2 py-1 min-w-44">{test.name}</th>{/each}
		</tr>
	</thead>
	<tbody>
		{#each data.contenders as row (row.id)}
			<tr class="border-b rule align-top">
				<th scope="row" class="py-2 pr-3 text-left font-semibold">
					<span class="flex items-center gap-2"
						><Token letter={row.letter} colour={row.colour} />
						<kbd class="hint" title="The key that pours it">{row.number}</kbd>
						{row.name}</span>
				</th>
				{#each data.tests as test (test.id)}
					{@const take = flight.takeAt(row.id, test.id)}
					{@const aim = isWanted(row.id, test.id)}
					<td
						id="cell-{row.id}-{test.id}"
						class="p-1 {aim ? 'outline-2 outline-primary rounded scroll-m-24' : ''}"
						ondragover={(event) => event.dataTransfer?.types.includes(INTERNAL) && event.preventDefault()}
						ondrop={(event) => ondrop(event, row.id, test.id)}>
						{#if aim}
							<p class="text-sm font-semibold text-primary px-1">
								the next file goes here
								<button class="btn btn-xs" onclick={() => onwant(null)}>Cancel</button>
							</p>
						{/if}
						{#if take}<TakeChip {flight} {take} held={held === take.id} onpick={() => pick(take.id)} />{/if}
						{#each data.takes.filter((t) => t.repeat && t.contender_id === row.id && t.test_id === test.id) as again (again.id)}
							<p class="text-xs quiet mt-1">played again ({again.repeat + 1})</p>
							<TakeChip {flight} take={again} held={held === again.id} onpick={() => pick(again.id)} />
						{/each}
						{#if held !== null && held !== take?.id}
							<button class="btn btn-xs btn-primary mt-1" onclick={() => put(held!, row.id, test.id)}>
								{take ? 'change places' : 'put here'}<span class="sr-only">: {row.name}, {test.name}</span>
							</button>
						{:else if !take && !aim}
							<button
								class="block w-full text-left rounded border border-dashed rule px-2 py-2 text-sm quiet cursor-pointer"
								title="The next file goes here"
								onclick={() => onwant({ contender: row.id, test: test.id })}
								>no take<span class="sr-only">: {row.name}, {test.name}; the next file goes here</span></button>
						{/if}
					</td>
				{/each}
			</tr>
		{/each}
	</tbody>
</Table>
<p class="text-xs quiet mt-1 no-print">
	<kbd class="hint">arrows</kbd> move, <kbd class="hint">Enter</kbd> picks a take up and puts it down,
	<kbd class="hint">H</kbd> hears it, <kbd class="hint">Delete</kbd> sets it aside.
</p>
