<script lang="ts">
	/** The reveal: what each round says, what stood in the glasses, and what it costs. */
	import type { Revealed, RoundWas } from '$lib/api/client';
	import TakeOut from '$lib/parts/TakeOut.svelte';
	import Token from '$lib/parts/Token.svelte';
	import { titleOf } from '../rounds';
	import PriceAndLiking from './PriceAndLiking.svelte';

	let { told }: { told: Revealed } = $props();
	type Glass = NonNullable<RoundWas['glasses']>[number];
	const places = (one: Glass) => (one.best === one.worst ? `place ${one.best}` : `place ${one.best} to ${one.worst}`);
</script>

<div class="max-w-4xl">
	<div class="flex flex-wrap gap-3 items-baseline mb-4">
		<h1 class="grow">{told.tasting.name}</h1>
		<a class="btn btn-sm no-print" href="/flights/{told.tasting.flight_id}/verdict">The flight’s verdict</a>
		<TakeOut
			name="tasting"
			csv="/api/out/tastings/{told.tasting.id}.csv"
			json="/api/tastings/{told.tasting.id}/revealed" />
	</div>
	<p class="quiet mb-6">
		“{told.tasting.test}”, tasted blind by {told.tasting.tasters.map((one) => one.name).join(', ') || 'nobody'};
		revealed
		{told.tasting.revealed_at.slice(0, 10)}.
	</p>
	{#if told.tasting.looked}
		<p class="border border-warning rounded-box px-3 py-2 mb-6 max-w-2xl">
			{told.tasting.looked === 1 ? 'Somebody' : `${told.tasting.looked} people`} looked at the takes while it ran: perhaps
			not every answer was blind.
		</p>
	{/if}
	{#each told.rounds as round, n (n)}
		<section class="mb-10" aria-label={titleOf(round.kind)}>
			<p class="quiet text-sm">{titleOf(round.kind)}</p>
			<p class="text-2xl font-semibold mb-2">{round.said.words}</p>
			{#each round.more ?? [] as more, m (m)}<p class="mb-1">{more.words}</p>{/each}
			<ul class="mt-3 grid gap-2">
				{#each round.glasses ?? [] as glass (glass.contender_id)}
					<li class="flex flex-wrap gap-x-4 gap-y-1 items-center">
						<Token letter={glass.letter} colour={glass.colour} />
						<span class="font-semibold w-52 truncate">{glass.name}</span>
						<span class="figures text-sm w-32">{glass.price_text || 'no price'}</span>
						{#if glass.best != null}
							<span class="text-sm figures">{places(glass)} · chosen {glass.chosen} of {glass.asked}</span>
						{:else if glass.points != null}
							<span class="text-sm figures">
								{glass.points.toFixed(0)} points{glass.band != null ? ` ± ${glass.band.toFixed(0)}` : ''}</span>
						{/if}
						{#if glass.words?.length}
							<span class="text-sm w-full pl-10">
								{#each glass.words as word, k (word.word)}{k ? ', ' : ''}{word.said < 0
										? 'not '
										: ''}{word.word}{word.measured != null
										? ` (measured ${word.measured > 0 ? '+' : '−'}${Math.abs(word.measured).toFixed(1)} steps)`
										: ''}{/each}
							</span>
						{/if}
						{#if glass.notes?.length}
							<ul class="w-full pl-10 text-sm">
								{#each glass.notes as note, k (k)}<li>{note}</li>{/each}
							</ul>
						{/if}
					</li>
				{/each}
			</ul>
			{#if round.kind === 'prefer' && (round.glasses ?? []).some((one) => one.best != null)}
				<PriceAndLiking {round} currency={told.currency} decimals={told.decimals} />
			{/if}
			{#if round.by_taster?.length}
				<details class="mt-3 text-sm">
					<summary class="cursor-pointer quiet w-fit">Taster by taster</summary>
					{#each round.by_taster as one, k (k)}<p class="mt-1">{one.words}</p>{/each}
				</details>
			{/if}
		</section>
	{/each}
</div>
