<script lang="ts">
	/** What each budget buys: the fit of its best rig, as steps; a step up is where more money is heard. */
	import type { Rigs } from '$lib/api/client';
	import Frame from '$lib/charts/Frame.svelte';
	import { fromMinor } from '$lib/money';

	let { data }: { data: Rigs } = $props();
	const HEIGHT = 180;
	const LEFT = 44;
	const BOTTOM = 30;
	const TOP = 12;
	let width = $state(640);
	const most = $derived(data.curve.at(-1)?.budget_minor ?? 1);
	const x = (minor: number) => LEFT + (minor / most) * (width - LEFT - 16);
	const y = (fit: number) => TOP + (1 - fit) * (HEIGHT - TOP - BOTTOM);
	const known = $derived(data.curve.filter((one) => one.fit !== null));
	const line = $derived(
		known
			.map((one, n) =>
				n ? `H${x(one.budget_minor)}V${y(one.fit ?? 0)}` : `M${x(one.budget_minor)},${y(0)}V${y(one.fit ?? 0)}`
			)
			.join('')
	);
	const quarter = $derived([0.25, 0.5, 0.75, 1].map((share) => share * most));
</script>

<Frame bind:width title="Fit against budget">
	<svg
		{width}
		height={HEIGHT}
		role="img"
		aria-label="What a budget buys: {known
			.map((one) => `${one.budget_text}: ${Math.round((one.fit ?? 0) * 100)} %`)
			.join('; ')}">
		{#each [0, 0.5, 1] as fit (fit)}
			<line x1={LEFT} x2={width - 10} y1={y(fit)} y2={y(fit)} class="stroke-base-300" />
			<text x={LEFT - 8} y={y(fit) + 4} text-anchor="end" class="fill-current text-xs">{fit * 100}</text>
		{/each}
		<text x={LEFT + 6} y={TOP + 12} class="fill-current text-xs">fit, %</text>
		{#each quarter as minor (minor)}
			<text x={x(minor)} y={HEIGHT - BOTTOM + 18} text-anchor="middle" class="fill-current text-xs"
				>{Math.round(Number(fromMinor(minor, data.decimals)))}</text>
		{/each}
		<text x={LEFT} y={HEIGHT - BOTTOM + 18} class="fill-current text-xs">{data.currency}</text>
		<path d={line} fill="none" class="stroke-secondary" stroke-width="2" />
		{#if data.spendable_minor != null && data.spendable_minor <= most}
			<line
				x1={x(data.spendable_minor)}
				x2={x(data.spendable_minor)}
				y1={TOP}
				y2={HEIGHT - BOTTOM}
				class="stroke-primary"
				stroke-dasharray="5 4" />
		{/if}
	</svg>
</Frame>
{#if data.least_text}<p class="text-sm quiet">Below {data.least_text} no rig can be made.</p>{/if}
