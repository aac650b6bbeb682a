<script lang="ts">
	/** A cell of a plan: its take, to be heard with one click. */
	import type { Contender, Test } from '$lib/api/client';
	import { player } from '$lib/audio/player.svelte';
	import type { FlightState } from '../flight.svelte';

	let { flight, contender: one, test: column }: { flight: FlightState; contender: Contender; test: Test } = $props();
	const take = $derived(flight.takeAt(one.id, column.id));
	const sounds = $derived(player.playing && player.hears(one.id) && player.pours('flight', flight.id, column.id));
</script>

<td class="px-1 py-2">
	{#if take}
		<button
			class="w-full text-left rounded border-2 px-2 py-1.5 hover:bg-base-200 {sounds
				? 'border-primary'
				: take.worst === 'fault'
					? 'border-error'
					: 'rule'}"
			disabled={take.state !== 'ready'}
			onclick={() => player.pour(flight.id, column.id, one.id, true)}>
			<span class="block text-sm"
				>{take.state === 'waiting'
					? 'being read…'
					: take.state === 'refused'
						? take.refusal
						: sounds
							? 'sounding'
							: 'hear'}
				<span class="sr-only">{one.name}, {column.name}</span></span>
			<span class="block text-xs quiet figures">{take.duration_s.toFixed(1)} s</span>
			{#if take.worst}<span class="block text-xs text-error font-semibold"
					>{take.worst === 'fault' ? 'redo' : 'look at it'}</span
				>{/if}
		</button>
	{:else}
		<span class="block rounded border border-dashed rule px-2 py-3 text-sm quiet text-center">no take</span>
	{/if}
</td>
