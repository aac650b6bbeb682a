<script lang="ts">
	/** Output against the height of a pickup; where strings waver the point is a cross. */
	import type { Pickup } from '$lib/api/client';

	let { raised }: { raised: Pickup['heights'][number] } = $props();
	const width = 320;
	const height = 132;
	const points = $derived(raised.points);
	const far = $derived(Math.max(...points.map((one) => one.height_mm)));
	const near = $derived(Math.min(...points.map((one) => one.height_mm)));
	const top = $derived(Math.max(...points.map((one) => one.output_db), 0.1));
	const toX = $derived((mm: number) => 40 + ((far - mm) / (far - near || 1)) * (width - 100));
	const toY = $derived((db: number) => height - 38 - (db / top) * (height - 66));
</script>

<figure>
	<figcaption class="mb-1">
		<span class="font-semibold">Height{raised.position ? `, ${raised.position}` : ''}.</span>
		{raised.sentence}
	</figcaption>
	<svg viewBox="0 0 {width} {height}" class="w-full max-w-96" role="img" aria-label="Output by height">
		<line x1="30" x2={width - 16} y1={height - 28} y2={height - 28} stroke="currentColor" opacity="0.5" />
		<polyline
			points={points.map((one) => `${toX(one.height_mm)},${toY(one.output_db)}`).join(' ')}
			fill="none"
			stroke="var(--c0)"
			stroke-width="2" />
		{#each points as one (one.ident)}
			{@const x = toX(one.height_mm)}
			{@const y = toY(one.output_db)}
			{#if one.wavers}
				<path d="M{x - 5} {y - 5} l10 10 M{x + 5} {y - 5} l-10 10" stroke="currentColor" stroke-width="2.5" />
			{:else}
				<circle cx={x} cy={y} r="4.5" fill="var(--c0)" />
			{/if}
			<text {x} y={y - 10} text-anchor="middle" font-size="12" fill="currentColor" class="figures"
				>{one.output_db > 0 ? '+' : ''}{one.output_db.toFixed(1).replace('-', '−')}</text>
			<text {x} y={height - 12} text-anchor="middle" font-size="12" fill="currentColor" class="figures"
				>{one.height_mm.toFixed(1)}</text>
		{/each}
		<text x={width - 2} y={height - 12} font-size="12" fill="currentColor" text-anchor="end">mm</text>
		<text x="4" y="14" font-size="12" fill="currentColor">dB</text>
	</svg>
	{#if points.some((one) => one.wavers)}<p class="text-xs quiet">A cross: strings waver there.</p>{/if}
</figure>
