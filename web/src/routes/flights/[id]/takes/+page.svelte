<script lang="ts">
	/** Takes: drop recordings, see where each belongs, correct by dragging or by keyboard. */
	import DropArea from '$lib/parts/DropArea.svelte';
	import Failures from '$lib/parts/Failures.svelte';
	import FileButton from '$lib/parts/FileButton.svelte';
	import Token from '$lib/parts/Token.svelte';
	import Table from '$lib/parts/Table.svelte';
	import { useFlight } from '../flight.svelte';
	import LeadIns from './LeadIns.svelte';
	import { INTERNAL } from './moving';
	import OtherWays from './OtherWays.svelte';
	import TakeChip from './TakeChip.svelte';
	import UploadList from './UploadList.svelte';
	import { filesOf, Uploads } from './uploads.svelte';

	const flight = useFlight();
	const data = $derived(flight.data!);
	const uploads = new Uploads(
		() => flight.id,
		() => flight.arrange()
	);
	let held = $state<number | null>(null);
	const loose = $derived(data.takes.filter((take) => take.test_id === null));
	const heldTake = $derived(data.takes.find((take) => take.id === held));
	const pick = (take: number) => (held = held === take ? null : take);

	async function drop(dropped: DataTransfer) {
		const files = await filesOf(dropped);
		if (files.length) uploads.add(files);
	}

	const choose = (files: File[]) =>
		uploads.add(files.map((file) => ({ file, name: file.webkitRelativePath || file.name })));

	async function put(take: number, contender: number | null, test: number | null) {
		held = null;
		await flight.place(take, contender, test);
	}

	function dropOnCell(event: DragEvent, contender: number | null, test: number | null) {
		const take = Number(event.dataTransfer?.getData(INTERNAL));
		if (!take) return;
		event.preventDefault();
		event.stopPropagation();
		void put(take, contender, test);
	}
</script>

<svelte:window
	onkeydown={(event) => {
		if (event.key === 'Escape') held = null;
	}} />

<DropArea
	label="Drop recordings"
	class="p-5 mb-4 text-center"
	takes={(dragged) => !dragged.types.includes(INTERNAL)}
	ontaken={drop}>
	<p class="text-lg">Drop recordings or a folder here</p>
	<p class="quiet text-sm mb-2">
		WAV, FLAC, OGG, MP3 or AIFF; named like “contender - test.wav”, the table builds itself
	</p>
	<FileButton text="Choose files" name="Choose recordings" many onfiles={choose} />
	<FileButton text="Choose a folder" folder onfiles={choose} />
</DropArea>

<Failures failures={data.failures ?? []} retry={() => flight.work('retry')} />

<OtherWays {data} />

<UploadList {uploads} />

{#if heldTake}
	<p class="mb-2 font-semibold text-primary" role="status">
		“{heldTake.filename}” is picked up: choose its cell, or press Escape.
	</p>
{/if}

{#if loose.length}
	<section
		class="mb-4"
		aria-label="Not placed"
		ondragover={(event) => event.dataTransfer?.types.includes(INTERNAL) && event.preventDefault()}
		ondrop={(event) => dropOnCell(event, null, null)}>
		<h2 class="mb-1">
			{loose.length} not placed
			<button class="btn btn-xs ml-2" onclick={() => flight.arrange()}>Place by name</button>
			<button class="btn btn-xs" onclick={() => flight.placeInOrder()}>Place in the order of takes</button>
		</h2>
		<div class="flex flex-wrap gap-2">
			{#each loose as take (take.id)}
				<div>
					<TakeChip {flight} {take} held={held === take.id} onpick={() => pick(take.id)} />
					{#if take.proposal?.contender_id && take.proposal.test_id}
						{@const row = flight.contender(take.proposal.contender_id)}
						{@const column = flight.test(take.proposal.test_id)}
						<button
							class="btn btn-xs mt-1"
							onclick={() => put(take.id, take.proposal!.contender_id, take.proposal!.test_id)}>
							to {row?.name} / {column?.name}?
						</button>
					{/if}
				</div>
			{/each}
		</div>
	</section>
{/if}

{#if data.contenders.length && data.tests.length}
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
						<span class="flex items-center gap-2"><Token letter={row.letter} colour={row.colour} /> {row.name}</span>
					</th>
					{#each data.tests as test (test.id)}
						{@const take = flight.takeAt(row.id, test.id)}
						<td
							class="p-1"
							ondragover={(event) => event.dataTransfer?.types.includes(INTERNAL) && event.preventDefault()}
							ondrop={(event) => dropOnCell(event, row.id, test.id)}>
							{#if take}<TakeChip {flight} {take} held={held === take.id} onpick={() => pick(take.id)} />{/if}
							{#each data.takes.filter((t) => t.repeat && t.contender_id === row.id && t.test_id === test.id) as again (again.id)}
								<p class="text-xs quiet mt-1">played again ({again.repeat + 1})</p>
								<TakeChip {flight} take={again} held={held === again.id} onpick={() => pick(again.id)} />
							{/each}
							{#if held !== null && held !== take?.id}
								<button class="btn btn-xs btn-primary mt-1" onclick={() => put(held!, row.id, test.id)}>
									{take ? 'change places' : 'put here'}<span class="sr-only">: {row.name}, {test.name}</span>
								</button>
							{:else if !take}
								<span class="block rounded border border-dashed rule px-2 py-2 text-sm quiet">no take</span>
							{/if}
						</td>
					{/each}
				</tr>
			{/each}
		</tbody>
	</Table>
	<LeadIns takes={data.takes} />
{/if}
