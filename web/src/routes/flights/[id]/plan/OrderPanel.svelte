<script lang="ts">
	/** The order of takes: how long the afternoon is, what one more would cost, and the takes as they come. */
	import { untrack } from 'svelte';
	import { notices } from '$lib/notices.svelte';
	import Token from '$lib/parts/Token.svelte';
	import { spoken, type PlanState } from './plan.svelte';

	let { plan, flightId }: { plan: PlanState; flightId: number } = $props();
	const order = $derived(plan.order);
	let anchors = $state(untrack(() => plan.order?.anchors ?? true));
	let limit = $state(untrack(() => String(plan.order?.session_limit_min ?? '')));
	const share = (seconds: number) => `${(100 * seconds) / Math.max(order?.total_s ?? 1, 1)}%`;
	const parts = $derived(
		order
			? ([
					['playing and writing down', order.play_s, 'var(--color-primary)'],
					['change-overs', order.change_s, 'var(--color-base-content)'],
					['valves settle', order.warm_s, 'var(--color-info)'],
					['played again', order.redo_s, 'var(--color-base-300)']
				] as const)
			: []
	);

	function make(event?: SubmitEvent) {
		event?.preventDefault();
		const minutes = Number(limit.replace(',', '.'));
		if (limit.trim() && !(minutes >= 10))
			return notices.say(`“${limit.trim()}” is no limit: a session lasts 10 minutes or more.`, 'error');
		void plan.makeOrder({ anchors, session_limit_min: limit.trim() ? minutes : null });
	}
</script>

<form class="flex flex-wrap gap-3 items-end" onsubmit={make}>
	<button class="btn {order?.ordered && order.current ? '' : 'btn-primary'}" disabled={plan.ordering}>
		{plan.ordering ? 'Working it out…' : order?.ordered ? 'Order again' : 'Order the takes'}
	</button>
	<label class="flex items-center gap-2 text-sm">
		<input type="checkbox" class="checkbox checkbox-sm" bind:checked={anchors} />
		anchors: one take again in the middle and at the end, to measure drift
	</label>
	<label class="flex items-center gap-2 text-sm"
		>A session lasts at most
		<input class="input input-sm w-16 figures" inputmode="numeric" bind:value={limit} placeholder="any" /> min
	</label>
	<span class="grow"></span>
	{#if order?.ordered}
		<a class="btn btn-sm" href="/flights/{flightId}/sheet">Take sheet</a>
		<a class="btn btn-sm btn-primary" href="/flights/{flightId}/next">Next take, large</a>
	{/if}
</form>
{#if plan.ordering}<progress class="progress w-64 mt-2" aria-label="Working out the order"></progress>{/if}
{#if order?.ordered}
	{#if !order.current}
		<p class="text-error font-semibold mt-2" role="status">The plan changed since: order again to see what it costs.</p>
	{/if}
	<p class="text-2xl font-semibold mt-3">
		{spoken(order.total_s)}
		<span class="text-base font-normal"
			>for {order.steps.length} takes{order.sessions > 1 ? ` in ${order.sessions} sessions` : ''};
			{order.best
				? 'no order has shorter change-overs'
				: `change-overs at most ${order.gap_percent} % over what no order can beat`}{order.table_order_s >
			order.change_s
				? `, ${spoken(order.table_order_s - order.change_s)} less than row by row`
				: ''}.</span>
	</p>
	{#if order.improving}
		<p class="flex gap-3 items-center text-sm mt-1" role="status">
			<progress class="progress w-32" aria-label="Looking for a better order"></progress>
			a better order is being looked for
			<button class="btn btn-xs" onclick={plan.stopImproving}>Keep this one</button>
		</p>
	{/if}
	<div class="flex h-3 max-w-3xl mt-1 border rule" aria-hidden="true">
		{#each parts as [name, seconds, colour] (name)}<span style="width:{share(seconds)};background:{colour}"></span
			>{/each}
	</div>
	<ul class="flex flex-wrap gap-x-5 text-sm mt-1">
		{#each parts as [name, seconds, colour] (name)}
			<li>
				<span class="inline-block w-2.5 h-2.5 mr-1 border rule" style="background:{colour}" aria-hidden="true"></span
				>{name}
				<span class="figures">{spoken(seconds)}</span>
			</li>
		{/each}
		{#if order.one_more_contender_s !== null}
			<li class="quiet">one more contender +{spoken(order.one_more_contender_s)}</li>
		{/if}
		{#if order.one_more_test_s !== null}<li class="quiet">one more test +{spoken(order.one_more_test_s)}</li>{/if}
	</ul>
	<ol class="mt-3 text-sm columns-1 md:columns-2 xl:columns-3 gap-8" aria-label="Takes in order">
		{#each order.steps as step, i (step.planned_id)}
			{#if i > 0 && step.session !== order.steps[i - 1]!.session}
				<li class="font-semibold pt-2">Session {step.session + 1}</li>
			{/if}
			<li class="flex gap-2 py-0.5 break-inside-avoid items-center">
				<span class="figures w-6 text-right">{step.number}</span>
				<Token letter={step.letter} colour={step.colour} />
				<span class="truncate {step.state === 'done' ? 'quiet' : ''}"
					>{step.test}{step.anchor ? ` · anchor ${step.anchor}` : ''}</span>
				<span class="grow"></span>
				<span class="quiet figures whitespace-nowrap"
					>{step.change_s ? `+${spoken(step.change_s)}` : ''}
					{step.state === 'done' ? 'done' : step.state === 'redo' ? 'again' : ''}</span>
			</li>
		{/each}
	</ol>
{:else if order}
	<p class="quiet text-sm mt-2 max-w-3xl">
		The slow changes (amplifier, guitar, strings) are put where they happen least often; one take is played again in the
		middle and at the end, so that you know how well the afternoon repeats.
	</p>
{/if}
