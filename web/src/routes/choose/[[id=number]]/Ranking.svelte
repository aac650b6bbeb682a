<script lang="ts">
	/** All items of a kind, or the contenders of a flight, ranked for a brief: what to buy, why, how sure, what a saving costs. */
	import { createQuery } from '@tanstack/svelte-query';
	import Play from '@lucide/svelte/icons/play';
	import { flip } from 'svelte/animate';
	import {
		api,
		atOnce,
		got,
		type Asked,
		type Brief,
		type GearKind,
		type Need,
		type Choice,
		type ToHear
	} from '$lib/api/client';
	import { arrows } from '$lib/arrows';
	import { player } from '$lib/audio/player.svelte';
	import type { BriefDraft } from '$lib/brief-draft.svelte';
	import Feel from '$lib/parts/Feel.svelte';
	import Kept from '$lib/parts/Kept.svelte';
	import Knob from '$lib/parts/Knob.svelte';
	import Loading from '$lib/parts/Loading.svelte';
	import { keepCard } from '$lib/keep-card';
	import NextTake from '$lib/parts/NextTake.svelte';
	import OfBefore from '$lib/parts/OfBefore.svelte';
	import Place from './Place.svelte';
	import PricePicture from './PricePicture.svelte';
	import Rates from './Rates.svelte';
	import Shows from './Shows.svelte';

	type Props = { kind: string; flight: number | null; brief?: Brief; draft: BriefDraft; need: Need | null };
	let { kind, flight, brief, draft, need }: Props = $props();
	/** All places are shown; without it the first ones, and only of these reasons, offers and settings are asked. */
	let all = $state(false);
	const EVERY = 10_000;
	const scope = $derived(flight === null ? { kind: kind as GearKind } : { flight });
	const query = $derived({ ...scope, brief: brief?.id, detailed: all ? EVERY : undefined });
	const choice = createQuery(() => ({
		queryKey: ['choice', scope, brief?.id, need, all],
		placeholderData: (before: Choice | undefined) => before,
		queryFn: ({ queryKey }: Asked) =>
			atOnce(queryKey, (at_once) => {
				const params = { query: { ...query, at_once } };
				return got(need ? api.POST('/api/choice', { params, body: need }) : api.GET('/api/choice', { params }));
			})
	}));
	const data = $derived(choice.data);
	const nameOf = (gear: number) => data?.ranked.find((one) => one.ident === gear)?.name ?? '';
	/** The take or the measurement that stands for a setting. */
	async function hearSetting(gear: number | null | undefined, hear: ToHear) {
		if (hear.flight_id == null || hear.test_id == null) {
			if (gear != null) await player.pourProof(gear, hear.key, true);
		} else await player.pour(hear.flight_id, hear.test_id, hear.contender_id ?? undefined, true);
	}

	const FIRST = 10;
	const rest = $derived(all ? (data?.ranked ?? []).slice(1) : (data?.ranked ?? []).slice(1, FIRST));
</script>

{#snippet card(one: Choice['ranked'][number])}
	<article
		class="border rounded-box p-3 grid grid-cols-[3rem_1fr] gap-x-3 {one.place === 1 && !one.over_minor
			? 'border-primary border-2'
			: 'rule'}"
		aria-label="Place {one.place}: {one.name}">
		<Place {one}>
			{#each one.blind ?? [] as told, n (n)}<p class="mt-1">{told.words}</p>{/each}
			<p class="text-xs quiet mt-2">
				{one.grounds?.words}{#each one.offers as offer (offer.kind)}<span class={offer.old ? 'opacity-60' : ''}
						>; {offer.text} ({offer.about}{offer.old ? ', old' : ''})</span
					>{/each}
			</p>
			<button
				class="btn btn-xs no-print mt-1"
				aria-label="Make a card of {one.name}"
				onclick={() =>
					keepCard({
						source: flight === null ? 'shelf' : 'flight',
						kind: flight === null ? (kind as GearKind) : null,
						flight_id: flight,
						brief_id: brief?.id,
						chosen: one.place === 1 ? null : one.ident,
						name: '',
						place: 1,
						locked: []
					})}>Make a card</button>
			{#if brief && one.gear_id != null}<Feel {brief} {draft} gear={one.gear_id} name={one.name} />{/if}
			{#if one.settings?.length}
				<details class="mt-1 text-sm">
					<summary class="cursor-pointer quiet w-fit">Where to set it</summary>
					{#each one.settings as setting (setting.sound)}
						<p class="mt-2">{setting.sound} <span class="quiet">· {setting.said.words}</span></p>
						<div class="flex flex-wrap gap-3">
							{#each setting.knobs as knob (knob.key)}
								<Knob setting={{ ...knob, labels: [...knob.labels] }} of="{one.name}, {setting.sound}" />
							{/each}
							{#if setting.hear}
								{@const hear = setting.hear}
								{@const says = hear.text ? `Hear near it: ${hear.text}` : 'Hear it so'}
								<button
									class="btn btn-sm self-center no-print"
									aria-label="{says} ({one.name}, {setting.sound})"
									onclick={() => hearSetting(one.gear_id, hear)}>
									<Play size={16} />
									{says}</button>
							{/if}
						</div>
					{/each}
				</details>
			{/if}
		</Place>
	</article>
{/snippet}

{#if !data}
	<Loading error={choice.error} retry={() => choice.refetch()} />
{:else}
	<p class="only-print text-sm">
		{data.flight_name || `Every ${kind} of the shelf`}{brief ? `, for “${brief.name}”` : ''}
	</p>
	<p class="text-xl font-semibold" role="status">{data.sentence}</p>
	<OfBefore shown={data.of_before} error={choice.error} retry={() => choice.refetch()} />
	<p class="mb-4 quiet">{data.certainty} {data.decide}</p>
	{#if data.next_take}<NextTake next={data.next_take} />{/if}
	{#if brief}<Shows brief={brief.id} sounds={data.sounds} tests={data.tests} />{/if}
	<Rates currency={data.currency} missing={data.no_rate} />
	{#if data.ranked[0]}{@render card(data.ranked[0])}{/if}
	{#if data.ranked.some((one) => one.price_minor != null)}
		<PricePicture {data} />
		{#if data.savings.length}
			<ul class="text-sm mb-5 space-y-1" aria-label="What a saving costs">
				{#each data.savings as one (one.cheaper)}
					<li>
						Instead of {nameOf(one.dearer)}: {one.said.words}.
						{#if one.per_step_text}<span class="quiet figures">{one.per_step_text} for each audible step.</span>{/if}
					</li>
				{/each}
			</ul>
		{/if}
	{/if}
	<ol class="space-y-3" start="2" {@attach arrows}>
		{#each rest as one (one.ident)}
			<li animate:flip={{ duration: 250 }}>{@render card(one)}</li>
		{/each}
	</ol>
	{#if data.ranked.length > rest.length + 1}
		<button class="btn btn-sm mt-3 no-print" onclick={() => (all = true)}>All {data.ranked.length}</button>
	{/if}
	{#if data.apart.length}
		<h2 class="mt-6 mb-2">Not comparable yet</h2>
		<ul class="space-y-1 text-sm" aria-label="Not comparable yet">
			{#each data.apart as one (one.ident)}
				<li>
					{one.said.words}
					{#if one.flight_id}<a class="underline no-print" href="/flights/{one.flight_id}/plan">Open its plan</a>{/if}
				</li>
			{/each}
		</ul>
	{/if}
	{#if data.not_played.length}
		<h2 class="mt-6 mb-2">Not yet played</h2>
		<p class="quiet text-sm mb-2">Nothing is known of how they sound, so they have no place.</p>
		<ul class="space-y-1 text-sm" aria-label="Not yet played">
			{#each data.not_played as one (one.ident)}
				<li class="flex gap-3">
					{#if one.gear_id != null}<a class="grow underline" href="/gear/{one.gear_id}">{one.name}</a>
					{:else}<span class="grow">{one.name}</span>{/if}
					<span class="figures">{one.price_text || 'no price known'}</span>
				</li>
			{/each}
		</ul>
	{/if}
	<Kept kept={data.kept ?? []} left={data.left_out ?? []} />
{/if}
