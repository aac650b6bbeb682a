<script lang="ts">
	/** A take as it is moved about: picked up by mouse or key, heard, taken out, removed. */
	import type { Take } from '$lib/api/client';
	import { player } from '$lib/audio/player.svelte';
	import type { FlightState } from '../flight.svelte';
	import { INTERNAL } from './moving';

	type Props = { flight: FlightState; take: Take; held: boolean; onpick: () => void };
	let { flight, take, held, onpick }: Props = $props();
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
	<button class="block w-full text-left cursor-grab" onclick={onpick} aria-pressed={held}>
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
			<button class="btn btn-ghost btn-xs px-1" onclick={() => flight.place(take.id, null, null)}>take out</button>
		{/if}
		<button
			class="btn btn-ghost btn-xs px-1"
			onclick={() => flight.removeTake(take.id)}
			aria-label="Remove {take.filename}">remove</button>
	</span>
</div>
