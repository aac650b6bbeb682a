<script lang="ts">
	/** Takes: drop recordings, see where each belongs, correct by dragging or by keyboard. */
	import { api, got } from '$lib/api/client';
	import { player } from '$lib/audio/player.svelte';
	import { notices } from '$lib/notices.svelte';
	import DropArea from '$lib/parts/DropArea.svelte';
	import Failures from '$lib/parts/Failures.svelte';
	import FileButton from '$lib/parts/FileButton.svelte';
	import Token from '$lib/parts/Token.svelte';
	import Table from '$lib/parts/Table.svelte';
	import { useFlight } from '../flight.svelte';
	import OtherWays from './OtherWays.svelte';
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
	const INTERNAL = 'application/x-cata-take';

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

	async function leadIn(take: number, text: string) {
		const lead_in_s = Number(text.replace(',', '.'));
		if (!Number.isFinite(lead_in_s)) return notices.say('Write seconds, such as 0.5.', 'error');
		try {
			await got(api.POST('/api/takes/{take_id}/lead-in', { params: { path: { take_id: take } }, body: { lead_in_s } }));
		} catch (error) {
			notices.fail(error);
		}
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

{#if uploads.list.length}
	<section class="mb-4" aria-label="Uploads">
		<p class="mb-1 flex gap-3 items-center" role="status">
			{#if uploads.open}
				<span>{uploads.list.length - uploads.open} of {uploads.list.length} files done</span>
				<button class="btn btn-xs" onclick={() => uploads.cancel()}>Cancel</button>
			{:else}
				<span
					>{uploads.list.filter((one) => one.state === 'taken').length} taken{uploads.refused.length
						? `, ${uploads.refused.length} refused`
						: ''}</span>
				<button class="btn btn-xs" onclick={() => uploads.clear()}>Put this list away</button>
			{/if}
		</p>
		<ul class="text-sm max-h-48 overflow-y-auto">
			{#each uploads.list.filter((one) => one.state !== 'taken') as one (one.id)}
				<li class="flex gap-3 items-center py-0.5">
					<span class="truncate max-w-96">{one.name}</span>
					{#if one.state === 'sending'}<progress class="progress w-24" value={one.share} aria-label="Sent of {one.name}"
						></progress>
					{:else if one.state === 'refused'}<span class="text-error">refused: {one.reason}</span>
					{:else}<span class="quiet">{one.state}</span>{/if}
				</li>
			{/each}
		</ul>
	</section>
{/if}

{#if heldTake}
	<p class="mb-2 font-semibold text-primary" role="status">
		“{heldTake.filename}” is picked up: choose its cell, or press Escape.
	</p>
{/if}

{#snippet chip(take: (typeof data.takes)[number])}
	<div
		class="rounded border-2 px-2 py-1 bg-base-100 {held === take.id
			? 'border-primary'
			: take.worst === 'fault'
				? 'border-error'
				: 'rule'}"
		role="group"
		aria-label="Take {take.filename}"
		draggable="true"
		ondragstart={(event) => event.dataTransfer?.setData(INTERNAL, String(take.id))}>
		<button
			class="block w-full text-left cursor-grab"
			onclick={() => (held = held === take.id ? null : take.id)}
			aria-pressed={held === take.id}>
			<span class="sr-only">Pick up</span>
			<span class="block truncate max-w-52 text-sm" title={take.filename}>{take.filename.split('/').pop()}</span>
			<span class="block text-xs quiet figures"
				>{take.duration_s.toFixed(1)} s · {(take.rate_hz / 1000).toFixed(1)} kHz · {take.channels === 1
					? 'mono'
					: 'stereo'} · {take.codec.replace(/_/g, ' ').toLowerCase()}</span>
		</button>
		{#each take.notes as note, i (i)}<span class="block text-xs text-error">{note}</span>{/each}
		{#if take.state === 'refused' || take.state === 'failed'}<span class="block text-xs text-error">{take.refusal}</span
			>{/if}
		{#if take.worst}<a class="block text-xs text-error font-semibold underline" href="/flights/{flight.id}/match"
				>{take.worst === 'fault' ? 'to redo' : 'look at it'}</a
			>{/if}
		<span class="flex gap-1 items-center text-xs">
			{#if take.test_id !== null && take.contender_id !== null}
				<button
					class="btn btn-ghost btn-xs px-1"
					disabled={take.state !== 'ready'}
					onclick={() => player.pour(flight.id, take.test_id!, take.contender_id!, true)}>hear</button>
				<button class="btn btn-ghost btn-xs px-1" onclick={() => put(take.id, null, null)}>take out</button>
			{/if}
			<button
				class="btn btn-ghost btn-xs px-1"
				onclick={() => flight.removeTake(take.id)}
				aria-label="Remove {take.filename}">remove</button>
		</span>
	</div>
{/snippet}

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
					{@render chip(take)}
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
							{#if take}{@render chip(take)}{/if}
							{#each data.takes.filter((t) => t.repeat && t.contender_id === row.id && t.test_id === test.id) as again (again.id)}
								<p class="text-xs quiet mt-1">played again ({again.repeat + 1})</p>
								{@render chip(again)}
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
	<details class="mt-5 text-sm">
		<summary class="cursor-pointer">Silence before the playing</summary>
		<p class="quiet my-2 max-w-2xl">
			If every take begins with a moment in which nobody plays, say how long: the noise floor is then measured there
			instead of being guessed from the quietest half second.
		</p>
		<ul class="grid gap-1 max-w-xl">
			{#each data.takes as take (take.id)}
				<li class="flex gap-2 items-center">
					<input
						class="input input-xs w-20 figures"
						aria-label="Lead-in of {take.filename} in seconds"
						inputmode="decimal"
						placeholder="none"
						onchange={(event) => leadIn(take.id, event.currentTarget.value)} />
					s <span class="truncate">{take.filename}</span>
				</li>
			{/each}
		</ul>
	</details>
{/if}
