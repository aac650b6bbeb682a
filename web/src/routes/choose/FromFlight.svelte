<script lang="ts">
	/** The contenders of one flight, ranked for a brief. */
	import { createQuery } from '@tanstack/svelte-query';
	import { flip } from 'svelte/animate';
	import { api, got, queries, type Brief, type Choice, type Need } from '$lib/api/client';
	import { notices } from '$lib/notices.svelte';
	import Kept from '$lib/parts/Kept.svelte';
	import Loading from '$lib/parts/Loading.svelte';
	import Token from '$lib/parts/Token.svelte';
	import Place from './Place.svelte';
	import SoundTests from './SoundTests.svelte';

	let { flightId, brief, need }: { flightId: number; brief?: Brief; need: Need | null } = $props();
	const path = $derived({ flight_id: flightId });
	const flight = createQuery(() => ({
		queryKey: ['flight', flightId],
		queryFn: () => got(api.GET('/api/flights/{flight_id}', { params: { path } }))
	}));
	const choice = createQuery(() => ({
		queryKey: ['choice', flightId, need],
		placeholderData: (before: Choice | undefined) => before,
		queryFn: () =>
			need
				? got(api.POST('/api/flights/{flight_id}/choice', { params: { path }, body: need }))
				: got(api.GET('/api/flights/{flight_id}/choice', { params: { path } }))
	}));

	async function stand(test_id: number, sound: string) {
		try {
			await got(api.PATCH('/api/tests/{test_id}', { params: { path: { test_id } }, body: { sound } }));
		} catch (error) {
			notices.fail(error);
		}
		await queries.invalidateQueries();
	}
</script>

{#if !choice.data}
	<Loading error={choice.error} retry={() => choice.refetch()} />
{:else}
	<p class="only-print text-sm">{choice.data.flight_name}{brief ? `, for “${brief.name}”` : ''}</p>
	<p class="text-xl font-semibold" role="status">{choice.data.sentence}</p>
	<p class="mb-4 quiet">{choice.data.certainty} {choice.data.decide}</p>
	<SoundTests sounds={choice.data.sounds ?? []} tests={flight.data?.tests ?? []} onstand={stand} />
	<ol class="space-y-3">
		{#each choice.data.ranked as one (one.contender_id)}
			<li
				animate:flip={{ duration: 250 }}
				class="border rounded-box p-3 grid grid-cols-[3rem_1fr] gap-x-3 {one.place === 1 && !one.over_minor
					? 'border-primary border-2'
					: 'rule'}"
				aria-label="Place {one.place}: {one.name}">
				<Place {one} />
			</li>
		{:else}{#if !choice.data.unplayed.length}<li class="quiet">This flight has no contenders yet.</li>{/if}{/each}
	</ol>
	<Kept kept={choice.data.kept ?? []} left={choice.data.left_out ?? []} />
	{#if choice.data.unplayed.length}
		<h2 class="mt-6 mb-2">Not yet played</h2>
		<p class="quiet text-sm mb-2">Nothing is known of how they sound, so they have no place.</p>
		<ul class="space-y-1" aria-label="Not yet played">
			{#each choice.data.unplayed as one (one.contender_id)}
				<li class="flex items-center gap-3">
					<Token letter={one.letter} colour={one.colour} /><span class="grow">{one.name}</span>
					<span class="figures">{one.price_text || 'no price known'}</span>
				</li>
			{/each}
		</ul>
	{/if}
{/if}
