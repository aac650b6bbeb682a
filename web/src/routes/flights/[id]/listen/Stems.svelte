<script lang="ts">
	/** The stems of a bed: how loud each is and where it stands; what plays goes on. */
	import { createQuery } from '@tanstack/svelte-query';
	import { api, got } from '$lib/api/client';
	import { arrows } from '$lib/arrows';
	import { player } from '$lib/audio/player.svelte';
	import { notices } from '$lib/notices.svelte';
	import FileButton from '$lib/parts/FileButton.svelte';
	import { address, send } from '$lib/upload';

	let { bed }: { bed: number } = $props();
	let open = $state(false);
	let busy = $state(false);
	const stems = createQuery(() => ({
		queryKey: ['beds', bed, 'stems'],
		enabled: open,
		queryFn: () => got(api.GET('/api/beds/{bed_id}/stems', { params: { path: { bed_id: bed } } }))
	}));
	const sideOf = (side: number) =>
		side === 0 ? 'middle' : `${Math.round(Math.abs(side) * 100)} % ${side < 0 ? 'left' : 'right'}`;

	/** One change after the other: each lays the bed anew. */
	async function change(call: () => Promise<unknown>) {
		if (busy) return;
		busy = true;
		try {
			await call();
			await stems.refetch();
			await player.setBed(bed);
		} catch (error) {
			notices.fail(error);
			await stems.refetch();
		} finally {
			busy = false;
		}
	}
	const set = (stem_id: number, body: { gain_db?: number; side?: number }) =>
		change(() => got(api.PATCH('/api/stems/{stem_id}', { params: { path: { stem_id } }, body })));
	const remove = (stem_id: number) =>
		change(() => got(api.DELETE('/api/stems/{stem_id}', { params: { path: { stem_id } } })));
	const add = (files: File[]) =>
		change(async () => {
			for (const file of files) await send(address(`/api/beds/${bed}/stems`, file), file).done;
		});
</script>

<details class="mt-2" bind:open>
	<summary class="cursor-pointer w-fit text-sm">Stems of this bed</summary>
	{#if stems.data && !stems.data.length}
		<p class="quiet text-sm my-2">
			It is one recording. Add the bass, the drums or others, and set how loud and where each is.
		</p>
	{/if}
	<ul class="my-2 grid gap-2 max-w-3xl" aria-label="Stems" {@attach arrows}>
		{#each stems.data ?? [] as one (one.id)}
			<li class="flex flex-wrap gap-x-4 gap-y-1 items-center text-sm">
				<span class="w-36 truncate font-semibold">{one.name}</span>
				<label class="flex gap-2 items-center"
					><span class="sr-only">Level of {one.name}</span>
					<input
						type="range"
						class="range range-xs w-32"
						min="-30"
						max="12"
						step="1"
						value={one.gain_db}
						disabled={busy}
						onchange={(event) => set(one.id, { gain_db: Number(event.currentTarget.value) })} />
					<span class="figures w-14">{one.gain_db.toFixed(0).replace('-', '−')} dB</span></label>
				<label class="flex gap-2 items-center"
					><span class="sr-only">Side of {one.name}</span>
					<input
						type="range"
						class="range range-xs w-24"
						min="-1"
						max="1"
						step="0.1"
						value={one.side}
						disabled={busy}
						onchange={(event) => set(one.id, { side: Number(event.currentTarget.value) })} />
					<span class="figures w-20">{sideOf(one.side)}</span></label>
				<button
					class="btn btn-ghost btn-xs"
					disabled={busy}
					onclick={() => remove(one.id)}
					aria-label="Remove {one.name}">remove</button>
			</li>
		{/each}
	</ul>
	<FileButton text={busy ? 'Laying it…' : 'Add a stem'} name="Add a stem" kind="btn-sm" many onfiles={add} />
</details>
