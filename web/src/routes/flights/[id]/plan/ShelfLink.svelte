<script lang="ts">
	/** Which item of the shelf a contender is: linked, linked to another, or not at all. */
	import { api, got, type Contender } from '$lib/api/client';
	import { notices } from '$lib/notices.svelte';
	import type { FlightState } from '../flight.svelte';

	let { flight, contender: one }: { flight: FlightState; contender: Contender } = $props();
	const plain = (name: string) => name.trim().toLocaleLowerCase();

	async function link(input: HTMLInputElement) {
		if (!input.value.trim()) return;
		// Asked anew: the shelf may have grown in another tab.
		const shelf = await got(api.GET('/api/gear-names')).catch(notices.fail);
		if (!shelf) return;
		const meant = shelf.filter((item) => plain(item.name) === plain(input.value));
		const [item] = meant;
		if (!item || meant.length > 1) {
			const why = item ? 'More than one item is called that' : 'No item is called that';
			return notices.say(`${why}: choose one from the list, or put it on the shelf first.`, 'error');
		}
		await flight.changeContender(one.id, { gear_id: item.id });
	}
</script>

{#if one.gear_id}
	<a class="underline quiet" href="/gear/{one.gear_id}">shelf</a>
	<button
		class="btn btn-ghost btn-xs font-normal quiet at-hand"
		aria-label="Unlink {one.name} from the shelf"
		onclick={() => flight.changeContender(one.id, { gear_id: null })}>unlink</button>
{:else if !one.is_bypass}
	<input
		class="cell-input text-sm w-44 quiet"
		list="shelf"
		placeholder="which item of the shelf?"
		aria-label="Item of the shelf that {one.name} is"
		onchange={(event) => link(event.currentTarget)} />
{/if}
