<script lang="ts">
	/** The stems of a bed: how loud each is and where it stands; what plays goes on. */
	import { createQuery } from '@tanstack/svelte-query';
	import { onMount } from 'svelte';
	import { api, got } from '$lib/api/client';
	import { arrows } from '$lib/arrows';
	import { player } from '$lib/audio/player.svelte';
	import { notices } from '$lib/notices.svelte';
	import FileButton from '$lib/parts/FileButton.svelte';
	import { address, send } from '$lib/upload';

	type Moved = { gain_db?: number; side?: number };
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
	/** What faders were moved to and is not laid yet. */
	let wanted = $state.raw<Record<number, Moved>>({});
	let soon: ReturnType<typeof setTimeout> | undefined;

	/** A fader that moves on is waited for. */
	function set(stem: number, moved: Moved, wait_ms = 300) {
		wanted = { ...wanted, [stem]: { ...wanted[stem], ...moved } };
		clearTimeout(soon);
		soon = setTimeout(lay, wait_ms);
	}
	async function lay() {
		if (busy) {
			soon = setTimeout(lay, 100);
			return;
		}
		const now = wanted;
		await change(async () => {
			for (const [stem, body] of Object.entries(now))
				await got(api.PATCH('/api/stems/{stem_id}', { params: { path: { stem_id: Number(stem) } }, body }));
		});
		// What was moved on meanwhile still waits.
		wanted = Object.fromEntries(Object.entries(wanted).filter(([stem, moved]) => moved !== now[Number(stem)]));
	}
	onMount(() => () => {
		clearTimeout(soon);
		if (Object.keys(wanted).length) void lay();
	});
	const remove = (stem_id: number) => {
		wanted = Object.fromEntries(Object.entries(wanted).filter(([stem]) => Number(stem) !== stem_id));
		return change(() => got(api.DELETE('/api/stems/{stem_id}', { params: { path: { stem_id } } })));
	};
	const add = (files: File[]) =>
		change(async () => {
			for (const file of files) await send(address(`/api/beds/${bed}/stems`, file), file).done;
		});
</script>

{#snippet fader(name: string, ends: [number, number, number], value: number, text: string, move: (to: number) => void)}
	<label class="flex gap-2 items-center"
		><span class="sr-only">{name}</span>
		<input
			type="range"
			class="range range-xs w-32"
			min={ends[0]}
			max={ends[1]}
			step={ends[2]}
			{value}
			aria-valuetext={text}
			oninput={(event) => move(Number(event.currentTarget.value))} />
		<span class="figures w-20">{text}</span></label>
{/snippet}

<details class="mt-2" bind:open>
	<summary class="cursor-pointer w-fit text-sm">Stems of this bed</summary>
	{#if stems.data && !stems.data.length}
		<p class="quiet text-sm my-2">
			It is one recording. Add the bass, the drums or others, and set how loud and where each is.
		</p>
	{/if}
	<ul class="my-2 grid gap-2 max-w-3xl" aria-label="Stems" {@attach arrows}>
		{#each stems.data ?? [] as one (one.id)}
			{@const at = { ...one, ...wanted[one.id] }}
			<li class="flex flex-wrap gap-x-4 gap-y-1 items-center text-sm">
				<span class="w-36 truncate font-semibold">{one.name}</span>
				{@render fader(
					`Level of ${one.name}`,
					[-30, 12, 1],
					at.gain_db,
					`${at.gain_db.toFixed(0).replace('-', '−')} dB`,
					(to) => set(one.id, { gain_db: to })
				)}
				{@render fader(`Side of ${one.name}`, [-1, 1, 0.1], at.side, sideOf(at.side), (to) =>
					set(one.id, { side: to })
				)}
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
