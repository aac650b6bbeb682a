<script lang="ts">
	/** The take sheet: every take in order with its changes, cautions and knobs; for the wall, and for the printer. */
	import { page } from '$app/state';
	import TriangleAlert from '@lucide/svelte/icons/triangle-alert';
	import Knob from '$lib/parts/Knob.svelte';
	import Loading from '$lib/parts/Loading.svelte';
	import Token from '$lib/parts/Token.svelte';
	import { useFlight } from '../flight.svelte';
	import { PlanState, spoken } from '../plan/plan.svelte';

	const flight = useFlight();
	const short = $derived(page.url.searchParams.has('open'));
	const plan = new PlanState(
		() => flight.id,
		() => short
	);
	let every = $state(false);
	type Step = NonNullable<typeof plan.order>['steps'][number];
	/** Every caution once: told in full at the first take that has it, by its number after. */
	const cautions = $derived([...new Set(plan.order?.steps.flatMap((step) => step.cautions.map((one) => one.words)))]);
	function tellsFirst(index: number, words: string): boolean {
		return plan.order?.steps.findIndex((step) => step.cautions.some((one) => one.words === words)) === index;
	}
	/** The knobs to draw, by device. */
	function devices(step: Step) {
		const drawn = step.knobs.filter((knob) => every || knob.turned || step === plan.order?.steps[0]);
		return [...new Set(drawn.map((knob) => knob.link))].map(
			(link) => [link, drawn.filter((knob) => knob.link === link)] as const
		);
	}
</script>

{#if !plan.order}
	<Loading error={plan.orderQuery.error} retry={() => plan.orderQuery.refetch()} />
{:else if !plan.order.ordered}
	<p>There is no order yet. <a class="underline" href="/flights/{flight.id}/plan#order">Order the takes</a> first.</p>
{:else}
	{@const first = plan.order.steps[0]}
	<div class="flex flex-wrap gap-3 items-center mb-3 no-print">
		<h2 class="grow">{short ? 'What is open, as an order of its own' : 'Take sheet'}</h2>
		{#if short}<a class="btn btn-sm" href="?">The whole sheet</a>
		{:else if plan.order.done && plan.order.done < plan.order.steps.length}<a class="btn btn-sm" href="?open"
				>Only the {plan.order.steps.length - plan.order.done} open</a
			>{/if}
		<label class="flex gap-2 items-center text-sm"
			><input type="checkbox" class="checkbox checkbox-sm" bind:checked={every} /> draw every knob</label>
		<button class="btn btn-sm btn-primary" onclick={() => window.print()}>Print</button>
		<a class="btn btn-sm" href="/flights/{flight.id}/next">Next take, large</a>
	</div>
	<h1 class="only-print">{flight.data?.name}</h1>
	{#if first}
		<p class="mb-2">
			{plan.order.steps.length} takes, about {spoken(plan.order.total_s)}; {first.conditions.join(' · ')}
		</p>
		<p class="mb-2 text-sm quiet">House rules: {plan.order.house.join(' · ')}</p>
		{#if first.set_up.length}
			<p class="mb-2">
				<strong>{short ? 'Set up anew, as it was:' : 'To begin with:'}</strong>
				{first.set_up.join('; ')}
			</p>
		{/if}
	{:else}<p class="text-lg my-4">Nothing is open: every take is recorded, and Match wants none of them again.</p>{/if}
	<ol class="border-t rule">
		{#each plan.order.steps as step, i (step.planned_id)}
			{@const before = plan.order.steps[i - 1]}
			{#if before && before.session !== step.session}
				<li class="py-2 font-semibold text-lg">Session {step.session + 1}</li>
			{/if}
			<li class="border-b rule py-2 grid grid-cols-[3rem_1fr] gap-x-3 break-inside-avoid">
				<span class="text-2xl figures text-right">{step.number}</span>
				<div>
					<p class="flex flex-wrap gap-2 items-center">
						<Token letter={step.letter} colour={step.colour} />
						<strong>{step.contender}</strong> · {step.test}
						{#if step.why}<span class="text-error font-semibold text-sm">again: {step.why}</span>{/if}
						{#if step.anchor}<span class="border rule rounded px-1 text-sm">anchor {step.anchor}</span>{/if}
						<span class="grow"></span>
						<span class="quiet text-sm figures">at {spoken(step.begins_s)}, {step.bpm} bpm</span>
						<span class="border rule w-5 h-5 inline-block text-center leading-5" title={step.state}
							>{step.state === 'done' ? '✓' : ''}<span class="sr-only">{step.state}</span></span>
					</p>
					{#if i > 0 && step.changes.length}<p class="text-sm">
							<strong>Change:</strong>
							{step.changes.join('; ')}
						</p>{/if}
					{#each step.cautions as caution, k (k)}
						{@const number = cautions.indexOf(caution.words) + 1}
						<p class="text-sm text-error font-semibold">
							<TriangleAlert size={15} class="inline -mt-0.5" aria-hidden="true" />
							Caution {number}{tellsFirst(i, caution.words) ? `: ${caution.words}` : ', as before'}
						</p>
					{/each}
					<div class="flex flex-wrap gap-x-6 gap-y-1 mt-1">
						{#each devices(step) as [link, drawn] (link)}
							<div>
								<p class="text-xs quiet">{link}</p>
								<div class="flex flex-wrap gap-1">
									{#each drawn as knob (knob.key)}
										<div class="rounded border-2 {knob.turned && every ? 'border-primary' : 'border-transparent'}">
											<Knob of={knob.link} setting={knob} />
										</div>
									{/each}
								</div>
							</div>
						{/each}
					</div>
				</div>
			</li>
		{/each}
	</ol>
{/if}
