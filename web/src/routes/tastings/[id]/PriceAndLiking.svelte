<script lang="ts">
	/** Liking against price: each at its place with the places it may have, the most liked on top. */
	import type { RoundWas } from '$lib/api/client';
	import Frame from '$lib/charts/Frame.svelte';

	let { round, currency, decimals }: { round: RoundWas; currency: string; decimals: number } = $props();
	const LEFT = 44;
	const TOP = 20;
	const BOTTOM = 40;
	let width = $state(640);
	const shown = $derived((round.glasses ?? []).filter((one) => one.price_minor != null && one.best != null));
	const count = $derived((round.glasses ?? []).length);
	const height = $derived(TOP + BOTTOM + 44 * count);
	const dearest = $derived(Math.max(...shown.map((one) => one.price_minor ?? 0), 1) * 1.15);
	const x = (minor: number) => LEFT + (minor / dearest) * (width - LEFT - 24);
	const y = (place: number) => TOP + ((place - 0.5) / count) * (height - TOP - BOTTOM);
	const mean = (one: (typeof shown)[number]) => (round.glasses ?? []).indexOf(one) + 1;
	const unit = $derived(10 ** decimals);
</script>

{#if shown.length > 1}
	<div class="mt-4">
		<Frame bind:width title="Liking against price">
			<svg {width} {height} role="img" aria-label="Liking against price; the list above says the same">
				{#each Array.from({ length: count }, (_, n) => n + 1) as place (place)}
					<line x1={LEFT} x2={width - 10} y1={y(place)} y2={y(place)} class="stroke-base-300" />
					<text x={LEFT - 10} y={y(place) + 4} text-anchor="end" class="fill-current text-xs">{place}</text>
				{/each}
				<text x={LEFT} y={height - 6} class="fill-current text-xs">price, {currency}</text>
				<text x={4} y={12} class="fill-current text-xs">place</text>
				{#each shown as one (one.contender_id)}
					{@const at = x(one.price_minor ?? 0)}
					{@const right = at > width * 0.65}
					<line
						x1={at}
						x2={at}
						y1={y(one.best ?? 1) - 12}
						y2={y(one.worst ?? count) + 12}
						class="stroke-secondary"
						stroke-width="3"
						opacity="0.5" />
					<circle cx={at} cy={y(mean(one))} r="6" class={mean(one) === 1 ? 'fill-primary' : 'fill-secondary'} />
					<text
						x={at + (right ? -12 : 12)}
						y={y(mean(one)) - 6}
						text-anchor={right ? 'end' : 'start'}
						class="fill-current text-sm">{one.name}, {((one.price_minor ?? 0) / unit).toFixed(0)}</text>
				{/each}
			</svg>
		</Frame>
	</div>
{/if}
