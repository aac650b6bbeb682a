<script lang="ts">
	/** A contender's place in the ranking, with its reasons. */
	import type { Choice } from '$lib/api/client';
	import Token from '$lib/parts/Token.svelte';

	let { one }: { one: Choice['ranked'][number] } = $props();
	const percent = (value: number | null) => (value === null ? '–' : `${Math.round(value * 100)}`);
</script>

<span class="figures text-3xl text-center">{one.place}</span>
<div>
	<div class="flex flex-wrap items-center gap-x-4 gap-y-1">
		<Token letter={one.letter} colour={one.colour} />
		<span class="text-lg font-semibold grow">{one.name}</span>
		<span class="figures {one.over_minor ? 'text-error font-semibold' : ''}">{one.price_text || 'no price known'}</span>
		{#if one.left_text && !one.over_minor}<span class="quiet text-sm figures">leaves {one.left_text}</span>{/if}
	</div>
	<dl class="grid grid-cols-[5rem_1fr_3rem] gap-x-3 items-center text-sm my-2">
		{#each [['fit', one.fit], ['price', one.price_score], ['together', one.score]] as [label, value] (label)}
			<dt>{label}</dt>
			<dd class="h-2.5 bg-base-300 rounded-sm" aria-hidden="true">
				<span
					class="block h-full rounded-sm {label === 'together' ? 'bg-primary' : 'bg-secondary'}"
					style="width:{Number(value ?? 0) * 100}%"></span>
			</dd>
			<dd class="figures text-right">{percent(value as number | null)}</dd>
		{/each}
	</dl>
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
</div>
