<script lang="ts">
	/** Verdict: what this flight taught, in at most ten sentences that can be heard, printed and taken out. */
	import { createQuery } from '@tanstack/svelte-query';
	import { api, got } from '$lib/api/client';
	import Empty from '$lib/parts/Empty.svelte';
	import Kept from '$lib/parts/Kept.svelte';
	import Loading from '$lib/parts/Loading.svelte';
	import Sentences from '$lib/parts/Sentences.svelte';
	import TakeOut from '$lib/parts/TakeOut.svelte';
	import { useFlight } from '../flight.svelte';
	import AimAt from './AimAt.svelte';
	import ByWord from './ByWord.svelte';
	import OneTone from './OneTone.svelte';

	const flight = useFlight();
	const verdict = createQuery(() => ({
		queryKey: ['verdict', flight.id],
		queryFn: () => got(api.GET('/api/flights/{flight_id}/verdict', { params: { path: { flight_id: flight.id } } }))
	}));
</script>

{#if !verdict.data}
	<Loading error={verdict.error} retry={() => verdict.refetch()} />
{:else if verdict.data.code !== 'taught'}
	<Empty title="Nothing to say yet">
		<p>A verdict needs two contenders with a take of one test.</p>
		<a class="btn btn-sm" href="/flights/{flight.id}/takes">To the takes</a>
	</Empty>
{:else}
	<div class="max-w-4xl">
		<div class="flex flex-wrap gap-3 items-baseline mb-4">
			<p class="only-print w-full">{verdict.data.flight_name}</p>
			<h2 class="grow">{verdict.data.heading}</h2>
			<TakeOut name="verdict" json="/api/flights/{flight.id}/verdict" />
		</div>
		{#if verdict.data.question}<p class="quiet mb-4">{verdict.data.question}</p>{/if}
		<Sentences flightId={flight.id} sentences={verdict.data.sentences} label="Verdict" />
		{#if verdict.data.tasted?.length}
			<h3 class="mt-6 mb-1">Tasted blind</h3>
			<ul class="space-y-1.5">
				{#each verdict.data.tasted as one, n (n)}
					<li class="text-lg">
						{one.said.words}
						{#each one.more ?? [] as more, m (m)}<span class="block text-base">{more.words}</span>{/each}
						<a class="underline text-sm quiet" href="/tastings/{one.tasting_id}"
							>{one.tasting}, {one.tasters === 1 ? 'one taster' : `${one.tasters} tasters`}</a>
					</li>
				{/each}
			</ul>
		{/if}
		<OneTone />
		<AimAt />
		<ByWord />
		<Kept kept={verdict.data.kept ?? []} left={verdict.data.left_out ?? []} />
		<p class="quiet text-sm mt-6">{verdict.data.repeats.words}</p>
		<p class="quiet text-sm no-print">
			Where another hundred would go: <a class="underline" href="/choose?flight={flight.id}">choose</a> from this flight.
		</p>
	</div>
{/if}
