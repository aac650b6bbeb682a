<script lang="ts">
	/** A sound by pointing: hear takes, say which you like and which you do not, and see what that says. */
	import { goto } from '$app/navigation';
	import ThumbsDown from '@lucide/svelte/icons/thumbs-down';
	import ThumbsUp from '@lucide/svelte/icons/thumbs-up';
	import { createQuery } from '@tanstack/svelte-query';
	import { onMount } from 'svelte';
	import { api, got, queries, type Pointed } from '$lib/api/client';
	import { arrows } from '$lib/arrows';
	import { useAsked } from '$lib/asked.svelte';
	import { player } from '$lib/audio/player.svelte';
	import { BriefDraft } from '$lib/brief-draft.svelte';
	import { keys } from '$lib/keys.svelte';
	import Empty from '$lib/parts/Empty.svelte';
	import Loading from '$lib/parts/Loading.svelte';
	import Token from '$lib/parts/Token.svelte';

	const asked = useAsked({ brief: '', sound: '', flight: '', liked: '', disliked: '' });
	const briefs = createQuery(() => ({ queryKey: ['briefs'], queryFn: () => got(api.GET('/api/briefs')) }));
	const flights = createQuery(() => ({ queryKey: ['flights'], queryFn: () => got(api.GET('/api/flights')) }));
	const draft = new BriefDraft();
	const brief = $derived(draft.over(briefs.data?.find((one) => one.id === Number(asked.brief)) ?? briefs.data?.[0]));
	const sound = $derived(brief?.need.sounds?.find((one) => one.key === asked.sound) ?? brief?.need.sounds?.[0]);
	const heard = $derived((flights.data ?? []).filter((one) => one.takes > 0));
	const most = $derived(heard.reduce((best, one) => (one.takes > (best?.takes ?? 0) ? one : best), heard[0]));
	const flightId = $derived(heard.find((one) => one.id === Number(asked.flight))?.id ?? most?.id);
	const flight = createQuery(() => ({
		queryKey: ['flight', flightId],
		enabled: flightId !== undefined,
		queryFn: () => got(api.GET('/api/flights/{flight_id}', { params: { path: { flight_id: flightId! } } }))
	}));
	const numbers = (text: string) => (text ? text.split('.').map(Number) : []);
	const liked = $derived(numbers(asked.liked));
	const disliked = $derived(numbers(asked.disliked));
	const rows = $derived.by(() => {
		const data = flight.data;
		if (!data) return [];
		return data.tests.flatMap((test) =>
			data.contenders
				.filter((one) => !one.is_bypass)
				.flatMap((one) =>
					data.takes
						.filter((take) => take.test_id === test.id && take.contender_id === one.id && take.state === 'ready')
						.slice(0, 1)
						.map((take) => ({ take, test, contender: one }))
				)
		);
	});
	const found = createQuery(() => ({
		queryKey: ['pointed', liked, disliked],
		enabled: liked.length + disliked.length > 0,
		placeholderData: (before: Pointed | undefined) => before,
		queryFn: () => got(api.POST('/api/briefs/point', { body: { liked, disliked } }))
	}));
	const chanceOf = (take: number) => found.data?.others?.find((one) => one.take_id === take)?.chance;
	const proposed = $derived(found.data?.ranges?.filter((one) => one.proposed) ?? []);
	/** Those that are proposed, and what comes next. */
	const shown = $derived((found.data?.ranges ?? []).slice(0, proposed.length + 2));
	const ask = $derived(found.data?.ask);
	const sounding = $derived.by(() => {
		const tray = player.tray;
		if (tray?.of !== 'flight' || tray.owner_id !== flightId) return undefined;
		return rows.find(
			(one) => String(one.test.id) === tray.poured.key && one.contender.id === player.sounding?.contender_id
		);
	});

	function mark(take: number, good: boolean) {
		const without = (list: number[]) => list.filter((one) => one !== take);
		const was = (good ? liked : disliked).includes(take);
		asked.liked = [...without(liked), ...(good && !was ? [take] : [])].join('.');
		asked.disliked = [...without(disliked), ...(!good && !was ? [take] : [])].join('.');
	}

	async function use() {
		if (!brief || !sound || !proposed.length) return;
		const targets = proposed.map((one) => one.target);
		const sounds = (brief.need.sounds ?? []).map((one) => (one.key === sound.key ? { ...one, targets } : one));
		await draft.keep(brief, { sounds });
		void queries.invalidateQueries({ queryKey: ['scales'] });
		await goto(`/brief/${brief.id}`);
	}

	onMount(() =>
		keys.on({
			like: () => sounding && mark(sounding.take.id, true),
			dislike: () => sounding && mark(sounding.take.id, false)
		})
	);
</script>

<svelte:head><title>By pointing · Cata</title></svelte:head>

{#if !briefs.data || !flights.data || (flightId !== undefined && !flight.data)}
	<Loading
		error={briefs.error ?? flights.error ?? flight.error}
		retry={() => void queries.refetchQueries({ type: 'active' })} />
{:else if !brief || !sound}
	<Empty title="Which sound?">
		<p>A brief with a sound is needed before takes can be pointed at for it.</p>
		<a class="btn btn-primary btn-sm" href="/brief">To the brief</a>
	</Empty>
{:else if !rows.length}
	<Empty title="Nothing to point at yet">
		<p>Takes that have been read and have their cell can be pointed at.</p>
		<a class="btn btn-primary btn-sm" href="/flights">To the flights</a>
	</Empty>
{:else}
	<div class="flex flex-wrap gap-3 items-end mb-2" {@attach arrows}>
		<h1 class="grow">{sound.name}, by pointing</h1>
		<label class="flex flex-col text-sm"
			>Takes of
			<select
				class="select w-72 max-w-full"
				value={String(flightId)}
				onchange={(event) => (asked.flight = event.currentTarget.value)}>
				{#each heard as one (one.id)}<option value={String(one.id)}>{one.name}</option>{/each}
			</select>
		</label>
		<a class="btn btn-sm" href="/brief/{brief.id}">Back to the brief</a>
	</div>
	<p class="quiet mb-4">
		Hear them, then say which you like for this sound and which you do not: <kbd class="hint">+</kbd> and
		<kbd class="hint">−</kbd> mark what sounds.
	</p>
	<div class="grid gap-8 lg:grid-cols-[1fr_24rem]">
		<section aria-label="Takes" class="min-w-0">
			<ul class="divide-y divide-base-300" {@attach arrows}>
				{#each rows as { take, test, contender } (take.id)}
					{@const chance = chanceOf(take.id)}
					{@const next = ask?.take_id === take.id}
					<li class="flex gap-2 items-center py-1 {sounding?.take.id === take.id ? 'bg-base-200' : ''}">
						<button
							class="flex grow items-center gap-2 text-left min-w-0 hover:underline"
							onclick={() => player.pour(flightId!, test.id, contender.id, true)}>
							<Token letter={contender.letter} colour={contender.colour} />
							<span class="sr-only">Hear</span>
							<span class="truncate">{contender.name}</span>
							<span class="quiet text-sm truncate">{test.name}</span>
						</button>
						{#if next}<span class="text-sm text-primary font-semibold whitespace-nowrap">point at this next</span>
						{:else if chance != null}<span class="quiet text-sm figures whitespace-nowrap"
								>liked, {Math.round(chance * 100)} of 100</span
							>{/if}
						<button
							class="btn btn-sm btn-square {liked.includes(take.id) ? 'btn-primary' : 'btn-ghost'}"
							aria-pressed={liked.includes(take.id)}
							aria-label="Like {contender.name}, {test.name}"
							onclick={() => mark(take.id, true)}><ThumbsUp size={16} /></button>
						<button
							class="btn btn-sm btn-square {disliked.includes(take.id) ? 'btn-error' : 'btn-ghost'}"
							aria-pressed={disliked.includes(take.id)}
							aria-label="Do not like {contender.name}, {test.name}"
							onclick={() => mark(take.id, false)}><ThumbsDown size={16} /></button>
					</li>
				{/each}
			</ul>
		</section>
		<section aria-label="What that says" aria-live="polite">
			<h2 class="mb-2">What that says</h2>
			{#if found.error}
				<p class="text-error">{found.error.message}</p>
			{:else if !found.data}
				<p class="quiet">Nothing was pointed at yet: {liked.length} liked, {disliked.length} not.</p>
			{:else if found.data.lacking}
				<p>{found.data.lacking.words}</p>
			{:else}
				<ol class="space-y-2 mb-3">
					{#each shown as one (one.target.reading + one.target.part)}
						<li class={one.proposed ? '' : 'quiet'}>
							<p class={one.proposed ? 'font-semibold' : ''}>{one.name}</p>
							<p>{one.words}</p>
							<p class="text-sm flex gap-2 items-center">
								<span class="h-1.5 w-24 bg-base-300 rounded-sm relative shrink-0" aria-hidden="true"
									><span
										class="absolute inset-y-0 left-0 rounded-sm {one.proposed ? 'bg-primary' : 'bg-secondary'}"
										style="width:{one.chance * 100}%"></span
									></span>
								{one.sure.words}; {one.ends}
							</p>
						</li>
					{/each}
				</ol>
				<button class="btn btn-primary" onclick={use} disabled={!proposed.length}
					>Use the first {proposed.length} for {sound.name}</button>
				<p class="text-sm quiet mt-2">
					Each counts as much as it is sure. More takes, of both kinds, make it surer; Ctrl+Z takes the ranges back.
				</p>
			{/if}
		</section>
	</div>
{/if}
