<script lang="ts">
	/** Recordings that want a cell: where each may belong, why it was not put there, and all suggestions taken at once. */
	import { api, got, type Proposal, type Take } from '$lib/api/client';
	import { arrows } from '$lib/arrows';
	import { notices } from '$lib/notices.svelte';
	import type { FlightState } from '../flight.svelte';
	import { INTERNAL } from './moving';
	import TakeChip from './TakeChip.svelte';

	type Props = {
		flight: FlightState;
		takes: Take[];
		held: number | null;
		pick: (take: number) => void;
		ondrop: (event: DragEvent) => void;
		onplaced: () => void;
	};
	let { flight, takes, held, pick, ondrop, onplaced }: Props = $props();
	/** Suggestions in the order of the plan, while they are looked at. */
	let inOrder = $state<Proposal[] | null>(null);
	const shown = $derived(inOrder ?? takes.flatMap((take) => take.proposal ?? []));
	const here = $derived(
		shown.filter((one) => one.contender_id && one.test_id && takes.some((t) => t.id === one.take_id))
	);
	const of = (take: Take) => shown.find((one) => one.take_id === take.id);

	async function order() {
		try {
			const path = { flight_id: flight.id };
			inOrder = await got(api.GET('/api/flights/{flight_id}/takes/in-order', { params: { path } }));
		} catch (error) {
			notices.fail(error);
		}
	}

	async function takeAll(list: Proposal[]) {
		if (!(await flight.placeAll(list))) return;
		notices.say(`${list.length} ${list.length === 1 ? 'take' : 'takes'} placed. Ctrl+Z takes that back.`);
		if (list.length === here.length) inOrder = null;
		if (!takes.length) onplaced();
	}

	function words(one: Proposal): string {
		const cell = `${flight.contender(one.contender_id)?.name}, ${flight.test(one.test_id)?.name}`;
		const old = flight.data?.takes.find((take) => take.id === one.replaces);
		return `to ${cell}${one.repeat ? ' (played again)' : ''}${old ? ` in place of ${old.filename}` : ''}`;
	}
</script>

<section
	class="mb-4 border border-error rounded-box p-3"
	aria-label="Not placed"
	ondragover={(event) => event.dataTransfer?.types.includes(INTERNAL) && event.preventDefault()}
	{ondrop}
	{@attach arrows}>
	<h2 class="mb-2 flex flex-wrap gap-2 items-center">
		{takes.length} not placed
		{#if here.length}
			<button class="btn btn-sm btn-primary" onclick={() => takeAll(here)}
				>Take {here.length === 1 ? 'the suggestion' : `all ${here.length} suggestions`}</button>
		{/if}
		{#if inOrder}
			<button class="btn btn-sm" onclick={() => (inOrder = null)}>Suggest by name</button>
		{:else}
			<button class="btn btn-sm" onclick={() => flight.arrange()}>Place by name</button>
			<button class="btn btn-sm" onclick={order}>Suggest in the order of the plan</button>
		{/if}
	</h2>
	{#if inOrder?.[0]?.why}<p class="text-sm mb-2 text-error" role="status">{inOrder[0].why}</p>{/if}
	<ul class="flex flex-wrap gap-3">
		{#each takes as take (take.id)}
			{@const one = of(take)}
			<li class="max-w-64">
				<TakeChip {flight} {take} held={held === take.id} onpick={() => pick(take.id)} />
				{#if one?.why && !inOrder}<p class="text-xs quiet mt-1">{one.why}</p>{/if}
				{#if one?.contender_id && one.test_id}
					<button class="btn btn-xs mt-1 h-auto min-h-6 text-left" onclick={() => takeAll([one])}>{words(one)}</button>
				{/if}
			</li>
		{/each}
	</ul>
</section>
