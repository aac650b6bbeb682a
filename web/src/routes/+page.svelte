<script lang="ts">
	/** Home: what is next? */
	import { createQuery } from '@tanstack/svelte-query';
	import { api, atOnce, got, type Asked, type GearKind } from '$lib/api/client';
	import { arrows } from '$lib/arrows';
	import Empty from '$lib/parts/Empty.svelte';
	import Example from '$lib/parts/Example.svelte';
	import Loading from '$lib/parts/Loading.svelte';
	import StepsLine from '$lib/parts/StepsLine.svelte';
	import { seens } from '$lib/whose.svelte';

	const flights = createQuery(() => ({ queryKey: ['flights'], queryFn: () => got(api.GET('/api/flights')) }));
	const briefs = createQuery(() => ({ queryKey: ['briefs'], queryFn: () => got(api.GET('/api/briefs')) }));
	/** The answer of whom one looked at last, of what one looked at for them: the same that Choose gives. */
	const brief = $derived(briefs.data ? seens.last(briefs.data) : undefined);
	const seen = $derived(brief ? seens.of(brief.id) : undefined);
	const scope = $derived.by(() => {
		const flight = flights.data?.find((one) => one.id === Number(seen?.flight));
		return flight ? { flight: flight.id } : seen?.kind ? { kind: seen.kind as GearKind } : {};
	});
	const address = $derived(
		`/choose/${brief?.id ?? ''}?${new URLSearchParams(Object.entries(scope).map(([key, value]) => [key, String(value)]))}`
	);
	/** So many are shown at once; the page of all flights has a search. */
	const SHOWN = 8;
	const due = $derived((flights.data ?? []).filter((one) => one.next_code !== 'listen'));
	const told = $derived(
		(flights.data ?? []).filter((one) => one.steps.some((step) => step.key === 'verdict' && step.state === 'done'))
	);
	const ended = $derived(told.find((one) => one.next_code === 'listen') ?? told[0]);
	const order = $derived([...due, ...(flights.data ?? []).filter((one) => !due.includes(one))]);
	const verdict = createQuery(() => ({
		queryKey: ['verdict', ended?.id],
		enabled: !!ended,
		queryFn: () => got(api.GET('/api/flights/{flight_id}/verdict', { params: { path: { flight_id: ended!.id } } }))
	}));
	const cards = createQuery(() => ({ queryKey: ['cards'], queryFn: () => got(api.GET('/api/cards')) }));
	const choice = createQuery(() => ({
		queryKey: ['choice', 'home', brief?.id, scope],
		enabled: !!brief && !!flights.data?.length,
		queryFn: ({ queryKey }: Asked) =>
			atOnce(queryKey, (at_once) =>
				got(api.GET('/api/choice', { params: { query: { ...scope, brief: brief?.id, at_once } } }))
			)
	}));
</script>

<svelte:head><title>Cata</title></svelte:head>

<h1 class="mb-1">What is next?</h1>
{#if brief}
	<p class="mb-5">
		<a class="underline underline-offset-2" href="/brief/{brief.id}">{brief.name}</a>
		<span class="quiet">— {brief.line}</span>
	</p>
{:else if briefs.isSuccess}
	<p class="mb-5 quiet">
		No brief yet: <a class="underline" href="/brief">say what you need</a>, so that takes can be ranked for it.
	</p>
{/if}

{#if !flights.data}
	<Loading error={flights.error} retry={() => flights.refetch()} />
{:else if flights.data.length === 0}
	<Empty title="Taste gear side by side">
		<p>
			A flight is a table: contenders are rows, tests are columns, each cell is a recording of the same thing played the
			same way. Drop recordings that you have; Cata lines them up, sets them to equal loudness, checks that they are
			comparable, measures them, and ranks them for your need and budget.
		</p>
		<a class="btn btn-primary" href="/flights">Start a flight</a>
		<Example offer />
	</Empty>
{:else}
	<ul class="border rule rounded-box divide-y divide-base-300" {@attach arrows}>
		{#each order.slice(0, SHOWN) as flight (flight.id)}
			<li class="p-4 flex flex-wrap gap-x-8 gap-y-2 items-center">
				<div class="min-w-64 grow basis-72">
					<a class="font-semibold text-lg underline-offset-2 hover:underline" href="/flights/{flight.id}/plan"
						>{flight.name}</a>
					<p class="quiet text-sm">{flight.question}</p>
				</div>
				<StepsLine flightId={flight.id} steps={flight.steps} compact />
				<a
					class="btn btn-sm {flight.faults ? 'btn-error' : 'btn-primary'}"
					href="/flights/{flight.id}/{flight.next_step}">
					{flight.next_text}
				</a>
			</li>
		{/each}
	</ul>
	{#if order.length > SHOWN}
		<p class="mt-2 text-sm">
			<a class="underline underline-offset-2" href="/flights">All {order.length} flights, with a search</a>
		</p>
	{/if}
	{#if verdict.data?.sentences.length || choice.data?.ranked.length}
		<div class="grid gap-6 md:grid-cols-2 mt-6">
			{#if ended && verdict.data?.sentences.length}
				<section aria-labelledby="last-verdict">
					<h2 id="last-verdict" class="mb-1">Last verdict</h2>
					<p class="text-sm quiet mb-1">
						<a class="underline underline-offset-2" href="/flights/{ended.id}/verdict">{ended.name}</a>
					</p>
					<ul class="space-y-1">
						{#each verdict.data.sentences.slice(0, 3) as one, i (i)}<li>{one.said.words}</li>{/each}
					</ul>
				</section>
			{/if}
			{#if choice.data?.ranked.length}
				<section aria-labelledby="last-choice">
					<h2 id="last-choice" class="mb-1">What it says to buy</h2>
					<p class="text-sm quiet mb-1">
						<a class="underline underline-offset-2" href={address}>Choose</a>, for {brief?.name}
					</p>
					<p class="text-lg">{choice.data.sentence}</p>
					<p class="quiet">{choice.data.certainty}</p>
				</section>
			{/if}
		</div>
	{/if}
	{#if cards.data?.length}
		<section aria-labelledby="cards" class="mt-6">
			<h2 id="cards" class="mb-1">Decision cards</h2>
			<ul class="space-y-1" {@attach arrows}>
				{#each cards.data.slice(0, SHOWN) as one (one.id)}
					<li>
						<a class="underline underline-offset-2" href="/choose/card/{one.id}">{one.name}</a>
						<span class="quiet text-sm">{one.made_at.slice(0, 10)}: {one.sentence}</span>
					</li>
				{/each}
			</ul>
		</section>
	{/if}
	<div class="mt-4"><Example /></div>
{/if}
