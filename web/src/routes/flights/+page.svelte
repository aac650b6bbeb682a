<script lang="ts">
	/** All flights, and the start of a new one. */
	import { goto } from '$app/navigation';
	import { createQuery } from '@tanstack/svelte-query';
	import { api, got, type FlightSummary } from '$lib/api/client';
	import { arrows } from '$lib/arrows';
	import { useAsked } from '$lib/asked.svelte';
	import BundleIn from './BundleIn.svelte';
	import { notices } from '$lib/notices.svelte';
	import Loading from '$lib/parts/Loading.svelte';
	import StepsLine from '$lib/parts/StepsLine.svelte';

	const PAGE = 50;
	const wanted = useAsked({ q: '', offset: '0' });
	const offset = $derived(Number(wanted.offset) || 0);
	type Page = { list: FlightSummary[]; total: number };
	const flights = createQuery(() => ({
		queryKey: ['flights', 'page', wanted.q, offset],
		queryFn: async (): Promise<Page> => {
			const answer = api.GET('/api/flights', { params: { query: { q: wanted.q, limit: PAGE, offset } } });
			const list = await got(answer);
			return { list, total: Number((await answer).response.headers.get('x-total-count') ?? list.length) };
		},
		placeholderData: (before: Page | undefined) => before
	}));
	let name = $state('');
	let busy = $state(false);

	async function start(event: SubmitEvent) {
		event.preventDefault();
		if (busy) return;
		busy = true;
		try {
			const flight = await got(
				api.POST('/api/flights', { body: { name: name.trim(), question: '', link: 'gear', held: '' } })
			);
			await goto(`/flights/${flight.id}/takes`);
		} catch (error) {
			notices.fail(error);
		} finally {
			busy = false;
		}
	}

	async function remove(id: number) {
		try {
			await got(api.DELETE('/api/flights/{flight_id}', { params: { path: { flight_id: id } } }));
			notices.say('Removed. Ctrl+Z brings it back.');
			await flights.refetch();
		} catch (error) {
			notices.fail(error);
		}
	}
</script>

<svelte:head><title>Flights · Cata</title></svelte:head>

<h1 class="mb-3">Flights</h1>
<form class="flex flex-wrap gap-2 items-end mb-5" onsubmit={start}>
	<label class="flex flex-col text-sm"
		>New flight
		<input
			class="input w-96 max-w-[80vw]"
			bind:value={name}
			required
			maxlength="160"
			placeholder="Which drive for the melody voice?" />
	</label>
	<button class="btn btn-primary" disabled={busy}>Start</button>
	<span class="grow"></span>
	<BundleIn />
	<label class="flex flex-col text-sm"
		>Search
		<input class="input input-sm w-56" type="search" bind:value={wanted.q} oninput={() => (wanted.offset = '0')} />
	</label>
</form>
{#if !flights.data}
	<Loading error={flights.error} retry={() => flights.refetch()} />
{:else if !flights.data.list.length && wanted.q}
	<p class="quiet" role="status">No flight holds these words.</p>
{:else if !flights.data.list.length}
	<p class="quiet max-w-2xl">
		No flights yet. Name one by the question it shall answer, then drop recordings named like “contender - test.wav”:
		the table builds itself.
	</p>
{:else}
	{#if flights.data.total > PAGE}
		<p class="flex gap-3 items-center mb-2" role="status">
			<span class="figures">{offset + 1}–{Math.min(offset + PAGE, flights.data.total)} of {flights.data.total}</span>
			<button
				class="btn btn-xs"
				disabled={offset === 0}
				onclick={() => (wanted.offset = String(Math.max(0, offset - PAGE)))}>Newer</button>
			<button
				class="btn btn-xs"
				disabled={offset + PAGE >= flights.data.total}
				onclick={() => (wanted.offset = String(offset + PAGE))}>Older</button>
		</p>
	{/if}
	<ul class="border rule rounded-box divide-y divide-base-300" {@attach arrows}>
		{#each flights.data.list as flight (flight.id)}
			<li class="p-3 flex flex-wrap gap-x-6 gap-y-1 items-center">
				<div class="grow basis-72 min-w-0">
					<a class="font-semibold hover:underline underline-offset-2" href="/flights/{flight.id}/plan">{flight.name}</a>
					<p class="text-sm quiet">
						{flight.contenders} contenders, {flight.tests} tests, {flight.takes} takes
					</p>
				</div>
				<StepsLine flightId={flight.id} steps={flight.steps} compact />
				<a class="text-sm underline underline-offset-2" href="/flights/{flight.id}/{flight.next_step}"
					>{flight.next_text}</a>
				<button class="btn btn-ghost btn-xs" onclick={() => remove(flight.id)} aria-label="Remove {flight.name}"
					>remove</button>
			</li>
		{/each}
	</ul>
{/if}
