<script lang="ts">
	/** A contender's place in the ranking, with its reasons. */
	import type { Snippet } from 'svelte';
	import type { Choice } from '$lib/api/client';
	import Token from '$lib/parts/Token.svelte';

	let { one, children }: { one: Choice['ranked'][number]; children?: Snippet } = $props();
	const percent = (value: number | null | undefined) => (value == null ? '–' : `${Math.round(value * 100)}`);
	const fit = $derived(
		percent(one.fit) === percent(one.fit_best) ? percent(one.fit) : `${percent(one.fit)}–${percent(one.fit_best)}`
	);
	const bars = $derived([
		{ label: 'fit', value: one.fit, upTo: one.fit_best, text: fit },
		{ label: 'price', value: one.price_score, upTo: null, text: percent(one.price_score) },
		{ label: 'together', value: one.score, upTo: null, text: percent(one.score) }
	]);
</script>

<span class="figures text-3xl text-center">{one.place}</span>
<div>
	<div class="flex flex-wrap items-center gap-x-4 gap-y-1">
		{#if one.letter}<Token letter={one.letter} colour={one.colour ?? 0} />{/if}
		{#if one.gear_id != null}
			<a class="text-lg font-semibold grow hover:underline" href="/gear/{one.gear_id}">{one.name}</a>
		{:else}
			<span class="text-lg font-semibold grow">{one.name}</span>
		{/if}
		<span class="figures {one.over_minor ? 'text-error font-semibold' : ''}">{one.price_text || 'no price known'}</span>
		{#if one.left_text && !one.over_minor}<span class="quiet text-sm figures">leaves {one.left_text}</span>{/if}
	</div>
	<dl class="grid grid-cols-[5rem_1fr_4.5rem] gap-x-3 items-center text-sm my-2">
		{#each bars as { label, value, upTo, text } (label)}
			<dt>{label}</dt>
			<dd class="h-2.5 bg-base-300 rounded-sm relative" aria-hidden="true">
				{#if upTo !== null}<span
						class="absolute inset-y-0 left-0 rounded-sm bg-secondary opacity-35"
						style="width:{upTo * 100}%"></span
					>{/if}
				<span
					class="absolute inset-y-0 left-0 rounded-sm {label === 'together' ? 'bg-primary' : 'bg-secondary'}"
					style="width:{(value ?? 0) * 100}%"></span>
			</dd>
			<dd class="figures text-right">{text}</dd>
		{/each}
	</dl>
	{#if fit.includes('–')}
		<p class="text-xs quiet -mt-1 mb-2">Fit: from what is known, up to what it could be.</p>
	{/if}
	<div class="grid sm:grid-cols-2 gap-x-6 text-sm">
		<ul>
			{#each one.strengths as reason, n (n)}<li>
					<span aria-hidden="true" class="font-bold mr-1">+</span><span class="sr-only">Strength: </span>{reason.words}
				</li>{/each}
		</ul>
		<ul>
			{#each one.shortfalls as reason, n (n)}<li
					class={reason.code === 'over_budget' ? 'text-error font-semibold' : ''}>
					<span aria-hidden="true" class="font-bold mr-1">−</span><span class="sr-only">Shortfall: </span>{reason.words}
				</li>{/each}
		</ul>
	</div>
	{@render children?.()}
</div>
