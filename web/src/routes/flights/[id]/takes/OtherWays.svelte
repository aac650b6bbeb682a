<script lang="ts">
	/** Ways to get takes besides dropping files: one long recording, recording here, re-amping, the bench. */
	import { goto } from '$app/navigation';
	import { api, got, queries, type Flight } from '$lib/api/client';
	import type { Recording } from '$lib/api/plan';
	import { saveFile } from '$lib/picture-out';
	import { address, send } from '$lib/upload';
	import { useMeta } from '$lib/meta';
	import { notices } from '$lib/notices.svelte';
	import FileButton from '$lib/parts/FileButton.svelte';

	let { data }: { data: Flight } = $props();
	const meta = useMeta();
	let slates = $state(true);
	let reamped = $state(false);
	let count = $state('');
	let sending = $state<number | null>(null);
	let rehearsing = $state(false);
	let player = $state('0');
	let contender = $state('');
	const row = $derived(data.contenders.find((one) => String(one.id) === contender) ?? data.contenders[0]);

	async function take(file: File | undefined) {
		if (!file) return;
		const takes = Math.max(0, Math.round(Number(count)) || 0);
		const url = address(`/api/flights/${data.id}/recordings`, file, { takes, slates, reamped });
		sending = 0;
		try {
			const answer = await send(url, file, (share) => (sending = share)).done;
			await goto(`/flights/${data.id}/cuts/${(JSON.parse(answer) as Recording).id}`);
		} catch (error) {
			notices.fail(error);
		} finally {
			sending = null;
		}
	}

	let fetching = $state(false);

	/** The file, or the server's sentence on this page. */
	async function download() {
		if (!row) return;
		fetching = true;
		try {
			const file = await got(
				api.GET('/api/flights/{flight_id}/reamp', {
					params: { path: { flight_id: data.id }, query: { contender_id: row.id } },
					parseAs: 'blob'
				})
			);
			saveFile(file as unknown as Blob, `reamp-${row.name}.wav`);
		} catch (error) {
			notices.fail(error);
		} finally {
			fetching = false;
		}
	}

	async function rehearse() {
		rehearsing = true;
		try {
			const answer = await got(
				api.POST('/api/flights/{flight_id}/rehearse', {
					params: { path: { flight_id: data.id } },
					body: { player: Number(player), planned_ids: [], again: false }
				})
			);
			notices.say(`${answer.asked} takes are being played. ${answer.notes.map((note) => note.words).join(' ')}`);
		} catch (error) {
			notices.fail(error);
		} finally {
			rehearsing = false;
			await queries.invalidateQueries();
		}
	}
</script>

<div class="grid gap-x-8 gap-y-5 md:grid-cols-2 xl:grid-cols-4">
	<section aria-labelledby="long">
		<h2 id="long" class="text-base">One long recording</h2>
		<p class="text-sm quiet mb-1">An afternoon in one file. Cata finds the takes; you look at the cuts.</p>
		<label class="flex gap-2 items-center text-sm"
			><input type="checkbox" class="checkbox checkbox-sm" bind:checked={slates} /> slates were played before the takes</label>
		<label class="flex gap-2 items-center text-sm"
			><input type="checkbox" class="checkbox checkbox-sm" bind:checked={reamped} /> it is a re-amped file</label>
		<label class="flex gap-2 items-center text-sm my-1"
			>It holds
			<input class="input input-xs w-14 figures" bind:value={count} placeholder="open" inputmode="numeric" /> takes</label>
		<FileButton text="Choose the recording" name="Long recording" onfiles={(files) => take(files[0])} />
		{#if sending !== null}
			<p class="text-sm mt-1" role="status">
				<progress class="progress w-32" value={sending} aria-label="Sent of the recording"></progress>
				sending
			</p>
		{/if}
	</section>
	<section aria-labelledby="here">
		<h2 id="here" class="text-base">Record here</h2>
		<p class="text-sm quiet mb-1">
			Take by take from your audio interface, with count-in and slate, the knobs of each take in large type.
		</p>
		<a class="btn btn-sm" href="/flights/{data.id}/next">Next take</a>
		<a class="btn btn-sm btn-ghost" href="/flights/{data.id}/sheet">Take sheet</a>
	</section>
	<section aria-labelledby="reamp">
		<h2 id="reamp" class="text-base">Re-amp</h2>
		<p class="text-sm quiet mb-1">
			One dry take through everything: play this file through the contender, record what comes out, and choose it as one
			long recording with slates.
		</p>
		<div class="flex gap-1">
			<select
				class="select select-sm w-40"
				value={String(row?.id ?? '')}
				onchange={(event) => (contender = event.currentTarget.value)}
				aria-label="Contender to re-amp">
				{#each data.contenders as one (one.id)}<option value={String(one.id)}>{one.name}</option>{/each}
			</select>
			<button class="btn btn-sm" disabled={!row || fetching} onclick={download}
				>{fetching ? 'Making it…' : 'Download'}</button>
		</div>
	</section>
	<section aria-labelledby="bench">
		<h2 id="bench" class="text-base">Rehearse on the bench</h2>
		<p class="text-sm quiet mb-1">
			Simulated stand-ins play the open takes: try the whole flight before anything is set up.
		</p>
		<div class="flex gap-1">
			<select class="select select-sm w-44" bind:value={player} aria-label="Who plays">
				{#each meta.data?.choices.players ?? [] as one (one.key)}<option value={one.key}>{one.name}</option>{/each}
			</select>
			<button class="btn btn-sm" disabled={rehearsing} onclick={rehearse}>Rehearse</button>
		</div>
	</section>
</div>
