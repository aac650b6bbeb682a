<script lang="ts">
	/** Choose: what should I buy? From the whole shelf, or among the contenders of one flight. */
	import { createQuery } from '@tanstack/svelte-query';
	import { api, atOnce, got, queries, type Asked } from '$lib/api/client';
	import { BriefDraft } from '$lib/brief-draft.svelte';
	import { useAsked } from '$lib/asked.svelte';
	import { notices } from '$lib/notices.svelte';
	import Empty from '$lib/parts/Empty.svelte';
	import Loading from '$lib/parts/Loading.svelte';
	import EveryBrief from './EveryBrief.svelte';
	import FromFlight from './FromFlight.svelte';
	import FromShelf from './FromShelf.svelte';
	import WhatCounts from './WhatCounts.svelte';

	const SHELF = 'shelf:';
	const MANY = 8;
	const flights = createQuery(() => ({ queryKey: ['flights'], queryFn: () => got(api.GET('/api/flights')) }));
	const briefs = createQuery(() => ({ queryKey: ['briefs'], queryFn: () => got(api.GET('/api/briefs')) }));
	const asked = useAsked({ flight: '', kind: '', brief: '', q: '' });
	const whole = createQuery(() => ({
		queryKey: ['choice', 'kinds'],
		queryFn: ({ queryKey }: Asked) =>
			atOnce(queryKey, (at_once) => got(api.GET('/api/choice', { params: { query: { at_once } } })))
	}));
	const sought = $derived(asked.q.trim().toLocaleLowerCase().split(/\s+/));
	const offered = $derived(
		(flights.data ?? []).filter((one) => sought.every((word) => one.name.toLocaleLowerCase().includes(word)))
	);
	// Of the whole shelf, where anything of it was played; else of a flight.
	const fromShelf = $derived(!asked.flight && (asked.kind !== '' || (whole.data?.ranked.length ?? 0) > 0));
	const flightId = $derived(
		flights.data?.find((one) => one.id === Number(asked.flight))?.id ??
			flights.data?.find((one) => one.takes > 0 && !one.faults)?.id ??
			flights.data?.[0]?.id ??
			null
	);
	const kind = $derived(asked.kind || (whole.data?.kind ?? 'pedal'));
	const kinds = $derived(whole.data?.kinds ?? []);
	const flightQuery = createQuery(() => ({
		queryKey: ['flight', flightId],
		enabled: flightId !== null && !fromShelf,
		queryFn: () => got(api.GET('/api/flights/{flight_id}', { params: { path: { flight_id: flightId! } } }))
	}));
	const flight = $derived(flightQuery.data);
	const draft = new BriefDraft();
	const chosen = $derived(
		briefs.data?.find((one) => one.id === (fromShelf ? Number(asked.brief) : flight?.brief_id)) ?? briefs.data?.[0]
	);
	const brief = $derived(draft.over(chosen));
	const spendable = $derived(brief?.spendable_text ?? '');

	function choose(value: string) {
		asked.kind = value.startsWith(SHELF) ? value.slice(SHELF.length) : '';
		asked.flight = value.startsWith(SHELF) ? '' : value;
	}

	async function chooseBrief(brief_id: number) {
		if (fromShelf) {
			asked.brief = String(brief_id);
			return;
		}
		try {
			await got(
				api.PATCH('/api/flights/{flight_id}', { params: { path: { flight_id: flightId! } }, body: { brief_id } })
			);
		} catch (error) {
			notices.fail(error);
		}
		await queries.invalidateQueries();
	}

	async function begin() {
		try {
			await got(api.POST('/api/briefs', { body: { name: 'What I need' } }));
			await briefs.refetch();
		} catch (error) {
			notices.fail(error);
		}
	}
</script>

<svelte:head><title>Choose · Cata</title></svelte:head>

{#if !flights.data || !briefs.data || !whole.data}
	<Loading error={flights.error ?? briefs.error ?? whole.error} retry={() => queries.refetchQueries()} />
{:else if !flights.data.length}
	<Empty title="Nothing to choose from yet">
		<p>A ranking needs a flight with recordings. Start one, drop recordings, and come back.</p>
		<a class="btn btn-primary btn-sm" href="/flights">Start a flight</a>
	</Empty>
{:else}
	<div class="flex flex-wrap gap-3 items-end mb-4">
		<h1 class="grow">Choose</h1>
		<a class="btn btn-sm no-print" href="/choose/rig">The whole rig within the budget</a>
		<label class="flex flex-col text-sm"
			>From
			<select
				class="select w-80 max-w-full"
				value={fromShelf ? SHELF + kind : String(flightId)}
				onchange={(event) => choose(event.currentTarget.value)}>
				<optgroup label="The whole shelf">
					{#each kinds as one (one)}<option value={SHELF + one}>every {one} of the shelf</option>{/each}
				</optgroup>
				<optgroup label="One flight">
					{#if !offered.some((one) => one.id === flightId)}<option value={String(flightId)}>{flight?.name ?? ''}</option
						>{/if}
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
		{#if briefs.data.length > 1 && brief}
			<label class="flex flex-col text-sm"
				>For the brief
				<select
					class="select w-52"
					value={brief.id}
					onchange={(event) => chooseBrief(Number(event.currentTarget.value))}>
					{#each briefs.data as one (one.id)}<option value={one.id}>{one.name}</option>{/each}
				</select>
			</label>
		{/if}
	</div>
	<div class="grid gap-8 lg:grid-cols-[1fr_19rem]">
		<section aria-label="Ranking" class="min-w-0">
			{#if fromShelf}
				<FromShelf {kind} {brief} {draft} need={brief?.need ?? null} />
				{#if briefs.data.length > 1}<EveryBrief {kind} onchoose={chooseBrief} />{/if}
			{:else if flightId}
				<FromFlight {flightId} {brief} need={brief?.need ?? null} />
			{/if}
		</section>
		<section aria-label="What counts" class="space-y-4 no-print">
			{#if brief}
				<WhatCounts {brief} {draft} {spendable} />
				<p class="text-sm quiet">Numbers narrow it down; listen before you decide.</p>
				{#if !fromShelf && flightId}<a class="btn btn-sm" href="/flights/{flightId}/listen">Listen to this flight</a
					>{/if}
			{:else}
				<p>Say what you need, so that fit and budget count.</p>
				<button class="btn btn-primary btn-sm" onclick={begin}>Write a brief</button>
			{/if}
		</section>
	</div>
{/if}
