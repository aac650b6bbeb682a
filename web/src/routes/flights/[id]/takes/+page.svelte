<script lang="ts">
	/** Takes: drop recordings, see where each belongs, correct by dragging or by keyboard. */
	import { openWhen } from '$lib/open-when';
	import { tick, untrack } from 'svelte';
	import { goto } from '$app/navigation';
	import { page } from '$app/state';
	import { preview } from '$lib/audio/preview.svelte';
	import { controlsIn } from '$lib/arrows';
	import DropArea from '$lib/parts/DropArea.svelte';
	import Failures from '$lib/parts/Failures.svelte';
	import FileButton from '$lib/parts/FileButton.svelte';
	import TakeOut from '$lib/parts/TakeOut.svelte';
	import { useFlight } from '../flight.svelte';
	import Cells from './Cells.svelte';
	import LeadIns from './LeadIns.svelte';
	import Loose from './Loose.svelte';
	import Making from './Making.svelte';
	import { INTERNAL, type Cell } from './moving';
	import OtherWays from './OtherWays.svelte';
	import Recordings from './Recordings.svelte';
	import TakeChip from './TakeChip.svelte';
	import UploadList from './UploadList.svelte';
	import { filesOf, Uploads } from './uploads.svelte';

	const flight = useFlight();
	const data = $derived(flight.data!);
	const uploads = new Uploads(
		() => flight.id,
		() => flight.arrange(),
		() => {
			const cell = wanted;
			if (cell) want(null);
			return cell;
		}
	);
	let held = $state<number | null>(null);
	const free = $derived(data.takes.filter((take) => take.test_id === null));
	const nothingYet = $derived(!data.takes.length);
	const loose = $derived(free.filter((take) => !take.aside));
	const aside = $derived(free.filter((take) => take.aside));
	const heldTake = $derived(data.takes.find((take) => take.id === held));
	/** The cell of the address, ?cell=contender.test: where Match sends whoever replaces a take. */
	const wanted = $derived.by<Cell | null>(() => {
		const [contender = 0, test = 0, repeat = 0] = (page.url.searchParams.get('cell') ?? '').split('.').map(Number);
		return flight.contender(contender) && flight.test(test) ? { contender, test, repeat } : null;
	});
	const wantedName = $derived(
		wanted && `${flight.contender(wanted.contender)?.name}, ${flight.test(wanted.test)?.name}`
	);

	const focusOn = async (cell: Cell) => {
		await tick();
		const place = document.getElementById(`cell-${cell.contender}-${cell.test}`);
		place?.scrollIntoView({ block: 'nearest' });
		if (place) controlsIn(place)[0]?.focus();
	};

	function want(cell: Cell | null) {
		const at = new URL(page.url);
		if (cell) at.searchParams.set('cell', `${cell.contender}.${cell.test}.${cell.repeat ?? 0}`);
		else at.searchParams.delete('cell');
		void goto(at, { replaceState: true, keepFocus: true, noScroll: true });
	}

	// Once for each cell that is asked for: whenever a take has been read, the focus stays where somebody has it.
	const asked = $derived(wanted ? `${wanted.contender}.${wanted.test}.${wanted.repeat ?? 0}` : '');
	$effect(() => {
		if (asked) untrack(() => wanted && void focusOn(wanted));
	});
	$effect(() => () => preview.stop());

	const pick = (take: number) => (held = held === take ? null : take);

	async function drop(dropped: DataTransfer) {
		const files = await filesOf(dropped);
		if (files.length) uploads.add(files);
	}

	const choose = (files: File[]) =>
		uploads.add(files.map((file) => ({ file, name: file.webkitRelativePath || file.name })));

	async function put(take: number, contender: number, test: number) {
		held = null;
		await flight.place(take, contender, test);
		await focusOn({ contender, test });
	}

	function dropOnCell(event: DragEvent, contender: number | null, test: number | null) {
		const take = Number(event.dataTransfer?.getData(INTERNAL));
		if (!take) return;
		event.preventDefault();
		event.stopPropagation();
		if (contender !== null && test !== null) void put(take, contender, test);
		else void flight.place(take, null, null);
	}

	const toTable = async () => {
		const first = data.contenders[0];
		const column = data.tests[0];
		if (first && column) await focusOn({ contender: first.id, test: column.id });
	};
</script>

<svelte:window
	onkeydown={(event) => {
		if (event.key === 'Escape') held = null;
	}} />

<p class="only-print text-lg font-semibold">{data.name}: takes</p>
<DropArea
	label="Drop recordings"
	class={data.takes.length ? 'px-4 py-2 mb-3 no-print flex flex-wrap gap-2 items-center' : 'p-5 mb-4 text-center'}
	takes={(dragged) => !dragged.types.includes(INTERNAL)}
	ontaken={drop}>
	{#if wanted}
		<p class="font-semibold text-primary" role="status">
			The next file goes to {wantedName}; the take that is there steps aside.
			<FileButton text="Choose the file" name="Choose recordings" onfiles={choose} />
			<button class="btn btn-sm btn-ghost" onclick={() => want(null)}>Cancel</button>
		</p>
	{:else}
		{#if !data.takes.length}
			<p class="text-lg">Drop recordings or a folder here</p>
			<p class="quiet text-sm mb-2">
				WAV, FLAC, OGG, MP3 or AIFF; named like “contender - test.wav”, the table builds itself
			</p>
		{:else}<span>Drop recordings here, or</span>{/if}
		<FileButton text="Choose files" name="Choose recordings" many onfiles={choose} />
		<FileButton text="Choose a folder" folder onfiles={choose} />
		{#if data.takes.length}
			<span class="grow"></span>
			<TakeOut
				name="flight"
				csv="/api/out/flights/{flight.id}/takes.csv"
				json="/api/flights/{flight.id}"
				bundle="flight={flight.id}" />
		{/if}
	{/if}
</DropArea>

<Failures failures={data.failures ?? []} retry={() => flight.work('retry')} />

<details class="mb-4 no-print" {@attach openWhen(nothingYet)}>
	<summary class="cursor-pointer text-sm mb-3 w-fit"
		>Other ways: one long recording, record here, re-amp, rehearse</summary>
	<OtherWays {data} />
</details>
<Recordings flight={flight.id} />
<Making {data} />

<UploadList {uploads} />

{#if heldTake}
	<p class="mb-2 font-semibold text-primary" role="status">
		“{heldTake.filename}” is picked up: choose its cell, or press Escape.
	</p>
{/if}

{#if loose.length}
	<Loose
		{flight}
		takes={loose}
		{held}
		{pick}
		ondrop={(event) => dropOnCell(event, null, null)}
		onplaced={() => void toTable()} />
{/if}

{#if data.contenders.length && data.tests.length}
	<Cells
		{flight}
		{held}
		{wanted}
		{pick}
		put={(take, contender, test) => void put(take, contender, test)}
		ondrop={dropOnCell}
		onwant={want} />
	<LeadIns takes={data.takes} />
{/if}

{#if aside.length}
	<details class="mt-5">
		<summary class="cursor-pointer text-sm w-fit">{aside.length} set aside</summary>
		<div class="flex flex-wrap gap-3 mt-2">
			{#each aside as take (take.id)}
				<TakeChip {flight} {take} held={held === take.id} onpick={() => pick(take.id)} />
			{/each}
		</div>
	</details>
{/if}
