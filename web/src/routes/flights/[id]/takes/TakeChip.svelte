<script lang="ts">
	/** A take as it is moved about: picked up by mouse or key, heard, set aside, removed. */
	import { SvelteMap } from 'svelte/reactivity';
	import type { Take } from '$lib/api/client';
	import { player } from '$lib/audio/player.svelte';
	import { preview } from '$lib/audio/preview.svelte';
	import { notices } from '$lib/notices.svelte';
	import type { FlightState } from '../flight.svelte';
	import { INTERNAL } from './moving';

	type Props = { flight: FlightState; take: Take; held: boolean; onpick: () => void };
	let { flight, take, held, onpick }: Props = $props();
	const placed = $derived(take.test_id !== null && take.contender_id !== null);
	const where = $derived(
		placed ? `${flight.contender(take.contender_id)?.name}, ${flight.test(take.test_id)?.name}` : 'not placed'
	);

	function hear() {
		if (placed && !take.repeat) void player.pour(flight.id, take.test_id!, take.contender_id!, true);
		else preview.toggle(take.id, (text) => notices.say(text, 'error'));
	}

	const KEYS = new SvelteMap<string, () => unknown>([
		['h', hear],
		['Delete', () => (placed ? flight.place(take.id, null, null) : flight.removeTake(take.id))]
	]);

	function press(event: KeyboardEvent) {
		const act = event.ctrlKey || event.altKey || event.metaKey ? undefined : KEYS.get(event.key);
		if (!act || (event.key === 'h' && take.state !== 'ready')) return;
		event.preventDefault();
		act();
	}
</script>

<div
	class="rounded border-2 px-2 py-1 bg-base-100 {held
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
		onclick={onpick}
		onkeydown={press}
		aria-pressed={held}
		aria-keyshortcuts="H Delete">
		<span class="sr-only">Pick up</span>
		<span class="block truncate max-w-52 text-sm" title={take.filename}>{take.filename.split('/').pop()}</span>
		<span class="block text-xs quiet figures"
			>{take.duration_s.toFixed(1)} s · {(take.rate_hz / 1000).toFixed(1)} kHz · {take.channels === 1
				? 'mono'
				: 'stereo'} · {take.codec.replace(/_/g, ' ').toLowerCase()}</span>
		<span class="sr-only">{where}</span>
	</button>
	{#each take.notes as note, i (i)}<span class="block text-xs text-error">{note}</span>{/each}
	{#if take.state === 'refused' || take.state === 'failed'}<span class="block text-xs text-error">{take.refusal}</span
		>{/if}
	{#if take.worst}<a class="block text-xs text-error font-semibold underline" href="/flights/{flight.id}/match"
			>{take.worst === 'fault' ? 'to redo' : 'look at it'}</a
		>{/if}
	<span class="flex gap-1 items-center text-xs no-print">
		<button class="btn btn-ghost btn-xs px-1" disabled={take.state !== 'ready'} onclick={hear}
			>{preview.take === take.id ? 'stop' : 'hear'}</button>
		{#if placed}
			<button
				class="btn btn-ghost btn-xs px-1 font-normal at-hand"
				title="It leaves the table and stays in the flight"
				onclick={() => flight.place(take.id, null, null)}>set aside</button>
		{:else if take.aside}
			<button class="btn btn-ghost btn-xs px-1" onclick={() => flight.bringBack(take.id)}>bring back</button>
		{/if}
		<button
			class="btn btn-ghost btn-xs px-1 font-normal at-hand"
			title="It leaves the flight"
			onclick={() => flight.removeTake(take.id)}
			aria-label="Delete {take.filename}">delete</button>
	</span>
</div>
