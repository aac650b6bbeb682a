<script lang="ts">
	/** The rig within a budget: all parts at once, what else comes near, and what more or less money buys. */
	import { createQuery } from '@tanstack/svelte-query';
	import { api, atOnce, got, queries, type Asked, type Rigs } from '$lib/api/client';
	import { arrows } from '$lib/arrows';
	import { useAsked } from '$lib/asked.svelte';
	import { BriefDraft } from '$lib/brief-draft.svelte';
	import { fromMinor } from '$lib/money';
	import Customers from '$lib/parts/Customers.svelte';
	import Loading from '$lib/parts/Loading.svelte';
	import NoSuchBrief from '$lib/parts/NoSuchBrief.svelte';
	import OfBefore from '$lib/parts/OfBefore.svelte';
	import { keepCard } from '$lib/keep-card';
	import NextTake from '$lib/parts/NextTake.svelte';
	import { useWhose } from '$lib/whose.svelte';
	import BudgetCurve from './BudgetCurve.svelte';
	import Deals from './Deals.svelte';
	import Pairing from './Pairing.svelte';
	import RigCard from './RigCard.svelte';

	const asked = useAsked({ budget: '', lock: '' });
	const whose = useWhose('/rig');
	const draft = new BriefDraft();
	const brief = $derived(draft.over(whose.brief));
	const locked = $derived(asked.lock ? asked.lock.split(',').map(Number) : []);
	const budget = $derived(asked.budget ? Number(asked.budget) : null);
	const found = createQuery(() => ({
		queryKey: ['choice', 'rig', brief?.id, brief?.need, budget, locked],
		enabled: !whose.waits && !whose.gone,
		placeholderData: (before: Rigs | undefined) => before,
		queryFn: ({ queryKey }: Asked) =>
			atOnce(queryKey, (at_once) =>
				got(
					api.POST('/api/rig', {
						params: { query: { brief: brief?.id, at_once } },
						body: { need: brief?.need ?? null, budget_minor: budget, locked, curve: true }
					})
				)
			)
	}));
	const data = $derived(found.data);
	const above = $derived(data?.rigs[0]?.parts.map((part) => part.gear_id) ?? []);
	const own = $derived(brief?.need.own_items ?? []);
	const most = $derived(data?.curve.at(-1)?.budget_minor ?? 0);
	let slid = $state<number | null>(null);
	const shownBudget = $derived(slid ?? data?.spendable_minor ?? 0);

	const lock = (gear: number) => {
		const next = locked.includes(gear) ? locked.filter((one) => one !== gear) : [...locked, gear];
		asked.lock = next.join(',');
	};
	const keep = (place: number) =>
		keepCard({ source: 'rig', brief_id: brief?.id, budget_minor: budget, locked, place, name: '' });
	const have = (gear: number) =>
		brief && draft.keep(brief, { own_items: own.includes(gear) ? own.filter((one) => one !== gear) : [...own, gear] });
</script>

<svelte:head><title>Rig · Cata</title></svelte:head>

{#if whose.gone}
	<NoSuchBrief path="/rig" />
{:else if whose.waits || !data}
	<Loading error={whose.briefs.error ?? found.error} retry={() => queries.refetchQueries()} />
{:else}
	<div class="flex flex-wrap gap-3 items-end mb-4">
		<h1 class="grow">The rig</h1>
		{#if (whose.briefs.data?.length ?? 0) > 1 && brief}
			<Customers briefs={whose.briefs.data ?? []} {brief} path="/rig" />
		{/if}
		<a class="btn btn-sm no-print" href="/choose/{brief?.id ?? ''}">One piece at a time</a>
	</div>
	<p class="text-xl font-semibold" role="status">{data.verdict.words}</p>
	<OfBefore shown={data.of_before} error={found.error} retry={() => found.refetch()} />
	<p class="mb-4 quiet">
		{#if data.rigs[0]}
			{data.proven
				? data.liking
					? 'No rig of this shelf is noticeably better within this sum, fit and liking together.'
					: 'No rig of this shelf fits noticeably better within this sum.'
				: `The best that was found; none ${data.liking ? 'is worth more' : 'fits better'} than ${Math.round(data.bound * 100)} %.`}
			{data.liking?.words ?? ''}
			{#if data.rigs.length > 1}Best of these {data.rigs.length} in {Math.round(data.rigs[0].chance * 100)} of 100 tries in
				which every reading was moved by as much as it may be off.{/if}
		{/if}
		{#each data.notes as note (note.words)}<span class="ml-1"
				>{note.words.charAt(0).toUpperCase() + note.words.slice(1)}.</span
			>{/each}
	</p>
	{#if data.decide}<p class="mb-2 quiet">{data.decide}</p>{/if}
	{#if data.next_take}<NextTake next={data.next_take} />{/if}
	{#if data.rigs[0]}
		<div {@attach arrows}>
			<RigCard
				{brief}
				{draft}
				rig={data.rigs[0]}
				place={1}
				{locked}
				{own}
				onkeep={() => keep(1)}
				onlock={lock}
				onown={have} />
		</div>
	{/if}
	{#if data.curve.length && most}
		<section aria-label="Another sum" class="my-5">
			<label class="flex flex-col text-sm no-print" data-part
				><span
					>To spend: <span class="figures">{fromMinor(shownBudget, data.decimals)} {data.currency}</span>{budget ===
					null
						? ', as the brief says'
						: ''}</span>
				<input
					type="range"
					class="range range-sm w-full"
					min="0"
					max={most}
					step={Math.max(1, Math.round(most / 100))}
					value={shownBudget}
					aria-label="To spend"
					oninput={(event) => (slid = Number(event.currentTarget.value))}
					onchange={(event) => {
						asked.budget = event.currentTarget.value;
						slid = null;
					}} />
			</label>
			{#if budget !== null}
				<button class="btn btn-xs no-print" onclick={() => (asked.budget = '')}>Back to the brief’s sum</button>
			{/if}
			<BudgetCurve {data} />
		</section>
	{/if}
	{#if brief}<Pairing {brief} {draft} />{/if}
	<Deals currency={data.currency} />
	{#if data.rigs.length > 1}
		<h2 class="mt-6 mb-2">Really different rigs</h2>
		<ol class="space-y-3" start="2" {@attach arrows}>
			{#each data.rigs.slice(1) as rig, n (n)}
				<li>
					<RigCard
						{brief}
						{draft}
						{rig}
						place={n + 2}
						{above}
						{locked}
						{own}
						onkeep={() => keep(n + 2)}
						onlock={lock}
						onown={have} />
				</li>
			{/each}
		</ol>
	{/if}
{/if}
