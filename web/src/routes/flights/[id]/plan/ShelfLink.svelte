<script lang="ts">
	/** Which item of the shelf a contender is: linked, linked to another, or not at all. */
	import type { Contender } from '$lib/api/client';
	import type { FlightState } from '../flight.svelte';

	let { flight, contender: one }: { flight: FlightState; contender: Contender } = $props();

	async function link(input: HTMLInputElement) {
		const item = input.value.trim();
		// The server knows what the name means; what it does not know is said, and the field shows that it was not read.
		if (item && !(await flight.changeContender(one.id, { item }))) input.value = '';
	}
</script>

{#if one.gear_id}
	<a class="underline quiet" href="/gear/{one.gear_id}">shelf</a>
	<button
		class="btn btn-ghost btn-xs font-normal quiet at-hand"
		aria-label="Unlink {one.name} from the shelf"
		onclick={() => flight.changeContender(one.id, { gear_id: null })}>unlink</button>
{:else if !one.is_bypass}
	{#if one.offer_id}
		<button class="btn btn-xs font-normal" onclick={() => flight.changeContender(one.id, { gear_id: one.offer_id })}
			>is it {one.offer}?</button>
	{/if}
	<input
		class="cell-input text-sm w-44 quiet"
		list="shelf"
		placeholder="which item of the shelf?"
		aria-label="Item of the shelf that {one.name} is"
		onchange={(event) => link(event.currentTarget)} />
{/if}
