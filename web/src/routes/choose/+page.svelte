<script lang="ts">
	/** Choose: what should I buy? The ranking with its reasons; what a weight does is seen while it moves. */
	import { createQuery } from '@tanstack/svelte-query';
	import { flip } from 'svelte/animate';
	import { api, got, queries, type Choice, type Need } from '$lib/api/client';
	import { BriefDraft } from '$lib/brief-draft.svelte';
	import { useAsked } from '$lib/asked.svelte';
	import { fromMinor, toMinor } from '$lib/money';
	import { notices } from '$lib/notices.svelte';
	import Empty from '$lib/parts/Empty.svelte';
	import SoundTests from './SoundTests.svelte';
	import Kept from '$lib/parts/Kept.svelte';
	import Loading from '$lib/parts/Loading.svelte';
	import Token from '$lib/parts/Token.svelte';
	import Place from './Place.svelte';

	const flights = createQuery(() => ({ queryKey: ['flights'], queryFn: () => got(api.GET('/api/flights')) }));
	const briefs = createQuery(() => ({ queryKey: ['briefs'], queryFn: () => got(api.GET('/api/briefs')) }));
	const asked = useAsked({ flight: '', q: '' });
	const wanted = $derived(Number(asked.flight) || 0);
	const sought = $derived(asked.q.trim().toLocaleLowerCase().split(/\s+/));
	const offered = $derived(
		(flights.data ?? []).filter((one) => sought.every((word) => one.name.toLocaleLowerCase().includes(word)))
	);
	const flightId = $derived(
		flights.data?.find((one) => one.id === wanted)?.id ??
			flights.data?.find((one) => one.takes > 0 && !one.faults)?.id ??
			flights.data?.[0]?.id ??
			null
	);
	const flight = createQuery(() => ({
		queryKey: ['flight', flightId],
		enabled: flightId !== null,
		queryFn: () => got(api.GET('/api/flights/{flight_id}', { params: { path: { flight_id: flightId! } } }))
	}));
	const draft = new BriefDraft();
	const brief = $derived(draft.over(briefs.data?.find((one) => one.id === flight.data?.brief_id) ?? briefs.data?.[0]));
	const need = $derived(brief?.need ?? null);
	const choice = createQuery(() => ({
		queryKey: ['choice', flightId, need],
		enabled: flightId !== null,
		placeholderData: (before: Choice | undefined) => before,
		queryFn: () =>
			need
				? got(
						api.POST('/api/flights/{flight_id}/choice', {
							params: { path: { flight_id: flightId! } },
							body: need
						})
					)
				: got(api.GET('/api/flights/{flight_id}/choice', { params: { path: { flight_id: flightId! } } }))
	}));

	const attempt = (change: Partial<Need>) => brief && draft.attempt(brief, change);
	const keep = (change: Partial<Need>) => brief && draft.keep(brief, change);

	const MANY = 8;

	async function chooseBrief(brief_id: number) {
		try {
			await got(
				api.PATCH('/api/flights/{flight_id}', { params: { path: { flight_id: flightId! } }, body: { brief_id } })
			);
		} catch (error) {
			notices.fail(error);
		}
		await queries.invalidateQueries();
	}

	async function stand(test_id: number, sound: string) {
		try {
			await got(api.PATCH('/api/tests/{test_id}', { params: { path: { test_id } }, body: { sound } }));
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

	const withWeight = (key: string, weight: number) => ({
		sounds: (need?.sounds ?? []).map((sound) => (sound.key === key ? { ...sound, weight } : sound))
	});
</script>

<svelte:head><title>Choose · Cata</title></svelte:head>

{#if !flights.data || !briefs.data}
	<Loading error={flights.error ?? briefs.error} retry={() => flights.refetch()} />
{:else if !flights.data.length}
	<Empty title="Nothing to choose from yet">
		<p>A ranking needs a flight with recordings. Start one, drop recordings, and come back.</p>
		<a class="btn btn-primary btn-sm" href="/flights">Start a flight</a>
	</Empty>
{:else}
	<div class="flex flex-wrap gap-3 items-end mb-4">
		<h1 class="grow">Choose</h1>
		<label class="flex flex-col text-sm"
			>Flight
			<select
				class="select w-80 max-w-full"
				value={flightId}
				onchange={(event) => (asked.flight = event.currentTarget.value)}>
				{#if !offered.some((one) => one.id === flightId)}<option value={flightId}>{flight.data?.name ?? ''}</option
					>{/if}
				{#each offered as one (one.id)}<option value={one.id}>{one.name}</option>{/each}
			</select>
		</label>
		{#if flights.data.length > MANY}
			<label class="flex flex-col text-sm"
				>Search flights
				<input
					class="input w-40"
					type="search"
					bind:value={asked.q}
					onchange={() => offered[0] && (asked.flight = String(offered[0].id))} />
			</label>
		{/if}
		{#if briefs.data.length > 1 && brief && flight.data}
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
		<section aria-label="Ranking">
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
				<Kept kept={choice.data.kept ?? []} />
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
		</section>
		<section aria-label="What counts" class="space-y-4 no-print">
			{#if need && brief}
				<h2>What counts</h2>
				<p class="text-sm">
					<a class="underline" href="/brief">{brief.name}</a>: {choice.data?.spendable_text} to spend
				</p>
				<label class="flex flex-col text-sm"
					>Budget, {need.currency}
					<input
						class="input figures"
						inputmode="decimal"
						placeholder="none"
						value={fromMinor(need.budget_minor, brief.decimals)}
						oninput={(event) => attempt({ budget_minor: toMinor(event.currentTarget.value, brief.decimals) })}
						onchange={(event) => keep({ budget_minor: toMinor(event.currentTarget.value, brief.decimals) })} />
				</label>
				{#each [['fit_weight', 'Fit to the sounds'], ['price_weight', 'Low price']] as const as [key, label] (key)}
					<label class="flex flex-col text-sm">
						<span class="flex justify-between"><span>{label}</span><span class="figures">{need[key]}</span></span>
						<input
							type="range"
							class="range range-sm w-full"
							min="0"
							max="10"
							step="1"
							value={need[key]}
							oninput={(event) => attempt({ [key]: Number(event.currentTarget.value) })}
							onchange={(event) => keep({ [key]: Number(event.currentTarget.value) })} />
					</label>
				{/each}
				<h3 class="font-semibold pt-2">Sounds</h3>
				{#each need.sounds ?? [] as sound (sound.key)}
					<label class="flex flex-col text-sm">
						<span class="flex justify-between"
							><span>{sound.name}</span><span class="figures">{sound.weight}</span></span>
						<input
							type="range"
							class="range range-sm w-full"
							min="0"
							max="5"
							step="0.5"
							value={sound.weight}
							oninput={(event) => attempt(withWeight(sound.key, Number(event.currentTarget.value)))}
							onchange={(event) => keep(withWeight(sound.key, Number(event.currentTarget.value)))} />
					</label>
				{/each}
				<p class="text-sm quiet">Numbers narrow it down; listen before you decide.</p>
				{#if flightId}<a class="btn btn-sm" href="/flights/{flightId}/listen">Listen to this flight</a>{/if}
			{:else}
				<p>Say what you need, so that fit and budget count.</p>
				<button class="btn btn-primary btn-sm" onclick={begin}>Write a brief</button>
			{/if}
		</section>
	</div>
{/if}
