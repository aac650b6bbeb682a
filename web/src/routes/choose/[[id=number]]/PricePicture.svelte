<script lang="ts">
	/** Fit against price: every item with the span of its fit, and the line of those that nobody undercuts. */
	import type { Choice } from '$lib/api/client';
	import Frame from '$lib/charts/Frame.svelte';

	let { data }: { data: Choice } = $props();
	const HEIGHT = 300;
	const LEFT = 44;
	const BOTTOM = 40;
	const TOP = 26;
	let width = $state(640);
	const shown = $derived(data.ranked.filter((one) => one.price_minor != null));
	const dearest = $derived(Math.max(...shown.map((one) => one.price_minor ?? 0), 1) * 1.12);
	const x = (minor: number) => LEFT + (minor / dearest) * (width - LEFT - 16);
	const y = (fit: number) => TOP + (1 - fit) * (HEIGHT - TOP - BOTTOM);
	const line = $derived(
		data.front
			.map((gear) => shown.find((one) => one.ident === gear))
			.filter((one) => one !== undefined)
			.map((one, n) => `${n ? 'L' : 'M'}${x(one.price_minor ?? 0)},${y(one.fit)}`)
			.join(' ')
	);
	const named = $derived(new Set([...data.front, ...shown.slice(0, 3).map((one) => one.ident)]));
	const steps = $derived([0, 0.25, 0.5, 0.75, 1]);
	const unit = $derived(10 ** data.decimals);
	const step = $derived.by(() => {
		const rough = dearest / unit / 4;
		const power = 10 ** Math.floor(Math.log10(rough));
		return (rough / power >= 5 ? 5 : rough / power >= 2 ? 2 : 1) * power * unit;
	});
	const prices = $derived(Array.from({ length: Math.floor(dearest / step) }, (_, n) => (n + 1) * step));
</script>

<Frame bind:width title="Fit against price, {data.kind}">
	<svg {width} height={HEIGHT} role="img" aria-label="Fit against price; the list below says the same">
		{#each steps as fit (fit)}
			<line x1={LEFT} x2={width - 10} y1={y(fit)} y2={y(fit)} class="stroke-base-300" />
			<text x={LEFT - 8} y={y(fit) + 4} text-anchor="end" class="fill-current text-xs">{fit * 100}</text>
		{/each}
		{#each prices as minor (minor)}
			<text x={x(minor)} y={HEIGHT - BOTTOM + 18} text-anchor="middle" class="fill-current text-xs"
				>{minor / unit}</text>
		{/each}
		<text x={LEFT} y={HEIGHT - 4} class="fill-current text-xs">price, {data.currency}</text>
		<text x={LEFT + 6} y={TOP + 12} class="fill-current text-xs">fit, %</text>
		{#if data.spendable_minor != null && data.spendable_minor < dearest}
			<line
				x1={x(data.spendable_minor)}
				x2={x(data.spendable_minor)}
				y1={TOP}
				y2={HEIGHT - BOTTOM}
				class="stroke-error"
				stroke-dasharray="5 4" />
			<text x={x(data.spendable_minor) + 4} y={TOP + 10} class="fill-error text-xs">all that can be spent</text>
		{/if}
		<path d={line} fill="none" class="stroke-secondary" stroke-width="1.5" stroke-dasharray="2 3" />
		{#each shown as one (one.ident)}
			{@const first = one.place === 1}
			{#if one.fit_low != null && one.fit_high != null}
				<line
					x1={x(one.price_minor ?? 0)}
					x2={x(one.price_minor ?? 0)}
					y1={y(one.fit_low)}
					y2={y(one.fit_high)}
					class={first ? 'stroke-primary' : 'stroke-secondary'}
					stroke-width="2"
					opacity="0.55" />
			{/if}
			<circle
				cx={x(one.price_minor ?? 0)}
				cy={y(one.fit)}
				r={first ? 6 : 4}
				class={first ? 'fill-primary' : 'fill-secondary'} />
			{#if named.has(one.ident)}
				{@const right = x(one.price_minor ?? 0) > width * 0.7}
				<text
					x={x(one.price_minor ?? 0) + (right ? -9 : 9)}
					y={y(one.fit) - 8}
					text-anchor={right ? 'end' : 'start'}
					class="fill-current text-xs {first ? 'font-semibold' : ''}">{one.name}</text>
			{/if}
		{/each}
	</svg>
</Frame>
