<script lang="ts">
	/** Home: what is next? */
	import { createQuery } from '@tanstack/svelte-query';
	import { api, got } from '$lib/api/client';
	import Empty from '$lib/parts/Empty.svelte';
	import Example from '$lib/parts/Example.svelte';
	import Loading from '$lib/parts/Loading.svelte';
	import StepsLine from '$lib/parts/StepsLine.svelte';

	const flights = createQuery(() => ({ queryKey: ['flights'], queryFn: () => got(api.GET('/api/flights')) }));
	const briefs = createQuery(() => ({ queryKey: ['briefs'], queryFn: () => got(api.GET('/api/briefs')) }));
	const brief = $derived(briefs.data?.[0]);
</script>

<svelte:head><title>Cata</title></svelte:head>

<h1 class="mb-1">What is next?</h1>
{#if brief}
	<p class="mb-5">
		<a class="underline underline-offset-2" href="/brief">{brief.name}</a>
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
	<ul class="border rule rounded-box divide-y divide-base-300">
		{#each flights.data as flight (flight.id)}
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
	<div class="mt-4"><Example /></div>
{/if}
