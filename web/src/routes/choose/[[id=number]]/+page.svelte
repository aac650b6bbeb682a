<script lang="ts">
	/** Choose: what should I buy? From the whole shelf, or among the contenders of one flight, for one brief. */
	import { goto } from '$app/navigation';
	import { createQuery } from '@tanstack/svelte-query';
	import { api, atOnce, got, queries, type Asked } from '$lib/api/client';
	import { useAsked } from '$lib/asked.svelte';
	import { BriefDraft } from '$lib/brief-draft.svelte';
	import { notices } from '$lib/notices.svelte';
	import Customers from '$lib/parts/Customers.svelte';
	import Empty from '$lib/parts/Empty.svelte';
	import Loading from '$lib/parts/Loading.svelte';
	import NoSuchBrief from '$lib/parts/NoSuchBrief.svelte';
	import { seens, useWhose } from '$lib/whose.svelte';
	import EveryBrief from './EveryBrief.svelte';
	import Ranking from './Ranking.svelte';
	import WhatCounts from './WhatCounts.svelte';

	const SHELF = 'shelf:';
	const MANY = 8;
	const flights = createQuery(() => ({ queryKey: ['flights'], queryFn: () => got(api.GET('/api/flights')) }));
	const asked = useAsked({ flight: '', kind: '', q: '' });
	/** A flight proposes whose need it is for; an address that names a brief stays with it. */
	const proposed = () =>
		asked.flight ? (flights.data?.find((one) => one.id === Number(asked.flight))?.brief_id ?? null) : null;
	const whose = useWhose('/choose', () => (asked.flight && !flights.data ? undefined : proposed()));
	const whole = createQuery(() => ({
		queryKey: ['choice', 'kinds', whose.brief?.id],
		enabled: !whose.waits,
		queryFn: ({ queryKey }: Asked) =>
			atOnce(queryKey, (at_once) =>
				got(api.GET('/api/choice', { params: { query: { at_once, brief: whose.brief?.id } } }))
			)
	}));
	const sought = $derived(asked.q.trim().toLocaleLowerCase().split(/\s+/));
	const offered = $derived(
		(flights.data ?? []).filter((one) => sought.every((word) => one.name.toLocaleLowerCase().includes(word)))
	);
	// Of the whole shelf, where anything of it was played; else of a flight.
	const fromShelf = $derived(!asked.flight && (asked.kind !== '' || (whole.data?.ranked.length ?? 0) > 0));
	const flight = $derived(
		flights.data?.find((one) => one.id === Number(asked.flight)) ??
			flights.data?.find((one) => one.takes > 0 && !one.faults) ??
			flights.data?.[0]
	);
	const kind = $derived(asked.kind || (whole.data?.kind ?? 'pedal'));
	/** What is looked for is offered, too, where nothing of it was compared yet. */
	const kinds = $derived([...new Set([...(whole.data?.kinds ?? []), ...(fromShelf ? [kind] : [])])]);
	const draft = new BriefDraft();
	const brief = $derived(draft.over(whose.brief));
	const briefs = $derived(whose.briefs.data ?? []);
	const error = $derived(flights.error ?? whose.briefs.error ?? whole.error);

	function choose(value: string) {
		asked.kind = value.startsWith(SHELF) ? value.slice(SHELF.length) : '';
		asked.flight = value.startsWith(SHELF) ? '' : value;
		if (whose.brief) seens.note(whose.brief.id, { kind: asked.kind, flight: asked.flight });
	}

	async function begin() {
		try {
			const made = await got(api.POST('/api/briefs', { body: { name: 'What I need' } }));
			await queries.invalidateQueries({ queryKey: ['briefs'] });
			await goto(`/choose/${made.id}${location.search}`);
		} catch (problem) {
			notices.fail(problem);
		}
	}
</script>

<svelte:head><title>Choose · Cata</title></svelte:head>

{#if whose.gone}
	<NoSuchBrief path="/choose" />
{:else if !flights.data || whose.waits || !whole.data}
	<Loading {error} retry={() => queries.refetchQueries()} />
{:else if !flights.data.length}
	<Empty title="Nothing to choose from yet">
		<p>A ranking needs a flight with recordings. Start one, drop recordings, and come back.</p>
		<a class="btn btn-primary btn-sm" href="/flights">Start a flight</a>
	</Empty>
{:else}
	<div class="flex flex-wrap gap-3 items-end mb-4">
		<h1 class="grow">Choose</h1>
		{#if brief}<a class="btn btn-sm no-print" href="/rig/{brief.id}">The whole rig within the budget</a>{/if}
		<label class="flex flex-col text-sm"
			>From
			<select
				class="select w-80 max-w-full"
				value={fromShelf ? SHELF + kind : String(flight?.id)}
				onchange={(event) => choose(event.currentTarget.value)}>
				<optgroup label="The whole shelf">
					{#each kinds as one (one)}<option value={SHELF + one}>every {one} of the shelf</option>{/each}
				</optgroup>
				<optgroup label="One flight">
					{#if flight && !offered.includes(flight)}<option value={String(flight.id)}>{flight.name}</option>{/if}
					{#each offered as one (one.id)}<option value={String(one.id)}>{one.name}</option>{/each}
				</optgroup>
			</select>
		</label>
		{#if flights.data.length > MANY}
			<label class="flex flex-col text-sm"
				>Search flights
				<input
					class="input w-40"
					type="search"
					bind:value={asked.q}
					onchange={() => offered[0] && choose(String(offered[0].id))} />
			</label>
		{/if}
		{#if briefs.length > 1 && brief}<Customers {briefs} {brief} path="/choose" />{/if}
	</div>
	<div class="grid gap-8 lg:grid-cols-[1fr_19rem]">
		<section aria-label="Ranking" class="min-w-0">
			{#if fromShelf || flight}
				<Ranking {kind} flight={fromShelf ? null : (flight?.id ?? null)} {brief} {draft} need={brief?.need ?? null} />
			{/if}
			{#if fromShelf && briefs.length > 1}<EveryBrief {kind} />{/if}
		</section>
		<section aria-label="What counts" class="space-y-4 no-print">
			{#if brief}
				<WhatCounts {brief} {draft} spendable={brief.spendable_text} />
				<p class="text-sm quiet">Numbers narrow it down; listen before you decide.</p>
				{#if !fromShelf && flight}<a class="btn btn-sm" href="/flights/{flight.id}/listen">Listen to this flight</a
					>{/if}
			{:else}
				<p>Say what you need, so that fit and budget count.</p>
				<button class="btn btn-primary btn-sm" onclick={begin}>Write a brief</button>
			{/if}
		</section>
	</div>
{/if}
