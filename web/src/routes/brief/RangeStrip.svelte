<script lang="ts">
	/** A range as a band, with what was played on it: who is inside, who is not. */
	import type { Played, Target } from '$lib/api/client';
	import Token from '$lib/parts/Token.svelte';

	let { target, played, label }: { target: Target; played: Played[]; label: string } = $props();
	const low = $derived(target.low ?? -Infinity);
	const high = $derived(target.high ?? Infinity);
	const inside = (value: number) => value >= low && value <= high;
	const ends = $derived(
		[...played.map((one) => one.value), target.low ?? null, target.high ?? null].filter((v) => v !== null)
	);
	const least = $derived(Math.min(...ends));
	const most = $derived(Math.max(...ends));
	const room = $derived((most - least || 1) * 0.08);
	const at = (value: number) => (100 * (value - least + room)) / (most - least + 2 * room);
	const from = $derived(target.low == null ? 0 : at(target.low));
	const to = $derived(target.high == null ? 100 : at(target.high));
	const fits = $derived(played.filter((one) => inside(one.value)).map((one) => one.name));
</script>

<span
	class="block relative h-6 my-1 min-w-40 border-b rule"
	role="img"
	aria-label="{label}: {fits.length ? `${fits.join(', ')} within` : 'nobody within'}">
	<span class="absolute inset-y-1 rounded-sm bg-base-300" style="left: {from}%; width: {to - from}%"></span>
	{#each played as one (one.letter)}
		<span
			class="absolute top-0.5 -translate-x-1/2 {inside(one.value) ? '' : 'opacity-45'}"
			style="left: {at(one.value)}%"
			title="{one.name}: {one.value}"><Token letter={one.letter} colour={one.colour} size="s" /></span>
	{/each}
</span>
