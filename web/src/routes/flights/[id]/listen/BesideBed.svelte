<script lang="ts">
	/** In the mix: a bed beside the takes, how far they lie above it, and how well each is heard through it. */
	import { createQuery } from '@tanstack/svelte-query';
	import { api, got, type Bed } from '$lib/api/client';
	import { arrows } from '$lib/arrows';
	import { player } from '$lib/audio/player.svelte';
	import { notices } from '$lib/notices.svelte';
	import FileButton from '$lib/parts/FileButton.svelte';
	import { address, send } from '$lib/upload';
	import Stems from './Stems.svelte';

	const beds = createQuery(() => ({ queryKey: ['beds'], queryFn: () => got(api.GET('/api/beds')) }));
	let busy = $state(false);
	const names = $derived(new Map(player.takes.map((take) => [take.contender_id, take.name])));

	async function add(files: File[]) {
		const [file, ...stems] = files;
		if (!file || busy) return;
		busy = true;
		try {
			const bed = JSON.parse(await send(address('/api/beds', file), file).done) as Bed;
			// Several at once are stems of one.
			for (const one of stems) await send(address(`/api/beds/${bed.id}/stems`, one), one).done;
			await beds.refetch();
			await player.setBed(bed.id);
		} catch (error) {
			notices.fail(error);
		} finally {
			busy = false;
		}
	}

	async function remove() {
		const bed = player.bed.chosen;
		if (bed === null) return;
		try {
			await player.setBed(null);
			await got(api.DELETE('/api/beds/{bed_id}', { params: { path: { bed_id: bed } } }));
			notices.say('Removed. Ctrl+Z brings it back.');
			await beds.refetch();
		} catch (error) {
			notices.fail(error);
		}
	}
</script>

<section class="mt-5" aria-label="In the mix">
	<div class="flex flex-wrap gap-3 items-end" {@attach arrows}>
		<label class="flex flex-col text-sm"
			>In the mix, with the bed
			<select
				class="select w-72 max-w-full"
				value={String(player.bed.chosen ?? '')}
				onchange={(event) => player.setBed(Number(event.currentTarget.value) || null)}>
				<option value="">none</option>
				{#each beds.data ?? [] as bed (bed.id)}
					<option value={String(bed.id)}>{bed.name}{bed.tempo_bpm ? `, ${bed.tempo_bpm} bpm` : ''}</option>
				{/each}
			</select></label>
		<FileButton text={busy ? 'Reading…' : 'Add a bed'} name="Add a bed" kind="" many onfiles={add} />
		{#if player.bed.chosen !== null}
			<label class="flex flex-col text-sm"
				>The take against the bed
				<span class="flex gap-3 items-center">
					<input
						type="range"
						class="range w-48"
						min="-12"
						max="12"
						step="1"
						value={player.bed.relation_lu}
						onchange={(event) => player.setBed(player.bed.chosen, Number(event.currentTarget.value))} />
					<span class="figures w-16">{player.bed.relation_lu > 0 ? '+' : ''}{player.bed.relation_lu} LU</span>
				</span></label>
			<button
				class="btn {player.bed.sounds ? 'btn-neutral border-primary border-2' : ''}"
				aria-pressed={player.bed.sounds}
				onclick={() => player.toggleBed()}>{player.bed.sounds ? 'With the bed' : 'Alone'}</button>
			<button class="btn btn-ghost btn-sm" onclick={remove}>remove this bed</button>
		{/if}
	</div>
	{#if player.bed.chosen !== null}<Stems bed={player.bed.chosen} />{/if}
	{#if player.bed.laid}
		<ul class="mt-2 text-sm" aria-label="How well each is heard">
			{#each player.bed.laid.heard as one (one.contender_id)}
				<li>{one.said?.words ?? `${names.get(one.contender_id)}: too quiet to say.`}</li>
			{/each}
		</ul>
		<p class="quiet text-xs mt-1">
			<kbd class="hint">M</kbd> alone or with the bed. What is left: partial loudness in critical bands (ISO 532-1), of the
			loudness a take has alone.
		</p>
	{/if}
</section>
