<script lang="ts">
	/** Plan: contenders are rows, tests are columns, each cell is a take. Everything is edited in place. */
	import { createQuery } from '@tanstack/svelte-query';
	import { api, got } from '$lib/api/client';
	import { useMeta } from '$lib/meta';
	import Table from '$lib/parts/Table.svelte';
	import { useFlight } from '../flight.svelte';
	import Blocks from './Blocks.svelte';
	import ChainEditor from './ChainEditor.svelte';
	import ContenderHead from './ContenderHead.svelte';
	import OrderPanel from './OrderPanel.svelte';
	import { PlanState } from './plan.svelte';
	import PlanHead from './PlanHead.svelte';
	import Rules from './Rules.svelte';
	import TakeCell from './TakeCell.svelte';

	const flight = useFlight();
	const plan = new PlanState(() => flight.id);
	const meta = useMeta();
	const compared = $derived<string[]>(meta.data?.choices.compared ?? []);
	const data = $derived(flight.data!);
	const gear = createQuery(() => ({
		queryKey: ['gear-names'],
		queryFn: () => got(api.GET('/api/gear-names'))
	}));
	let contender = $state('');

	async function addContender(event: SubmitEvent) {
		event.preventDefault();
		const name = contender.trim();
		if (!name) return;
		// The server knows what the name means: an item of the shelf, the bypass, or a new thing.
		if (await flight.addContender({ name })) contender = '';
	}
</script>

<div class="mb-3 flex flex-wrap gap-x-6 gap-y-1 items-center">
	<a class="underline underline-offset-2 font-semibold" href="/flights/{flight.id}/{data.next_step}"
		>Next: {data.next_text}</a>
	<label class="flex items-center gap-2 text-sm"
		>What is compared
		<select
			class="select select-sm w-36"
			value={data.link}
			onchange={(event) => flight.change({ link: event.currentTarget.value })}>
			{#if !compared.includes(data.link)}<option>{data.link}</option>{/if}
			{#each compared as one (one)}<option>{one}</option>{/each}
		</select>
	</label>
	<nav class="flex gap-4 text-sm" aria-label="Parts of the plan">
		{#each [['chain', 'Chain'], ['tests', 'Tests'], ['rules', 'House rules'], ['order', 'Order and time']] as [to, label] (to)}
			<a class="underline underline-offset-2" href="#{to}">{label}</a>
		{/each}
	</nav>
</div>

<Table label="Plan" look="w-full border-collapse">
	<PlanHead {flight} />
	<tbody>
		{#each data.contenders as one, i (one.id)}
			<tr class="border-b rule align-top">
				<ContenderHead {flight} {plan} contender={one} place={i} />
				{#each data.tests as column (column.id)}
					<TakeCell {flight} contender={one} test={column} />
				{/each}
				<td></td>
			</tr>
		{/each}
		<tr>
			<td class="py-3">
				<form class="flex gap-1" onsubmit={addContender}>
					<input
						class="input input-sm w-56"
						list="shelf"
						bind:value={contender}
						placeholder="New contender"
						aria-label="New contender"
						maxlength={meta.data?.limits.name} />
					<datalist id="shelf"
						>{#each gear.data ?? [] as item (item.id)}<option value={item.name}>{item.kind}</option>{/each}</datalist>
					<button class="btn btn-sm">Add</button>
				</form>
			</td>
		</tr>
	</tbody>
</Table>

{#if plan.data}
	<section class="mt-8 border-t rule pt-4" aria-labelledby="tests">
		<h2 id="tests" class="mb-2 scroll-mt-4">Tests from sets and blocks</h2>
		<Blocks {plan} tests={data.tests} />
	</section>
	<section class="mt-8 border-t rule pt-4" aria-labelledby="chain">
		<h2 id="chain" class="mb-2 scroll-mt-4">Chain: the same for all but the compared link</h2>
		<ChainEditor {plan} />
	</section>
	<section class="mt-8 border-t rule pt-4" aria-labelledby="order">
		<h2 id="order" class="mb-2 scroll-mt-4">Order and time</h2>
		{#if plan.order}<OrderPanel {plan} flightId={flight.id} />{/if}
	</section>
	<section class="mt-8 border-t rule pt-4" aria-labelledby="rules">
		<h2 id="rules" class="mb-2 scroll-mt-4">House rules</h2>
		<Rules {plan} />
	</section>
{/if}

<div class="grid gap-4 md:grid-cols-2 mt-8 border-t rule pt-4 max-w-5xl">
	<label class="flex flex-col gap-1 text-sm">
		The question this flight answers
		<textarea
			class="textarea w-full"
			rows="2"
			value={data.question}
			onchange={(event) => flight.change({ question: event.currentTarget.value })}></textarea>
	</label>
	<label class="flex flex-col gap-1 text-sm">
		What else is held constant, in your own words
		<textarea
			class="textarea w-full"
			rows="2"
			value={data.held}
			onchange={(event) => flight.change({ held: event.currentTarget.value })}></textarea>
	</label>
</div>
