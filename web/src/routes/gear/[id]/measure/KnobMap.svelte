<script lang="ts">
	/** Two knobs at once: darker is more; dots were measured, the shade between is drawn. */
	import type { KnobMap } from '$lib/api/client';

	let { map, name }: { map: KnobMap; name: string } = $props();
	const size = 176;
	const left = 34;
	const values = $derived([...map.grid, ...map.points].map((point) => point[2] ?? 0));
	const low = $derived(Math.min(...values));
	const high = $derived(Math.max(...values));
	const toX = (x: number) => left + 10 + x * (size - 20);
	const toY = (y: number) => 6 + (1 - y) * (size - 20) + 4;
	const share = $derived((value: number) => Math.round((88 * (value - low)) / (high - low || 1)));
	const xs = $derived([...new Set(map.grid.map((point) => point[0] ?? 0))]);
	const ys = $derived([...new Set(map.grid.map((point) => point[1] ?? 0))]);
	const wide = $derived(((Math.max(...xs) - Math.min(...xs)) / (xs.length - 1)) * (size - 20));
	const tall = $derived(((Math.max(...ys) - Math.min(...ys)) / (ys.length - 1)) * (size - 20));
	const written = (value: number) => value.toFixed(0).replace('-', '−');
</script>

<figure class="mt-2">
	<figcaption class="text-sm">{map.moves} by {name} and {map.other_name}, dB</figcaption>
	<svg
		viewBox="0 0 {left + size + 14} {size + 34}"
		class="w-full max-w-56"
		role="img"
		aria-label="{map.moves} by {name} and {map.other_name}: {map.points.length} settings measured, {written(
			low
		)} to {written(high)} dB">
		{#each map.grid as [x, y, value] (`${x} ${y}`)}
			<rect
				x={toX(x ?? 0) - wide / 2}
				y={toY(y ?? 0) - tall / 2}
				width={wide + 0.4}
				height={tall + 0.4}
				fill="color-mix(in oklab, var(--c0) {share(value ?? 0)}%, var(--color-base-100))" />
		{/each}
		{#each map.points as [x, y, value] (`${x} ${y}`)}
			<rect
				x={toX(x ?? 0) - 17}
				y={toY(y ?? 0) - 9}
				width="34"
				height="18"
				rx="3"
				fill="var(--color-base-100)"
				stroke="currentColor"
				stroke-width="0.8" />
			<text
				x={toX(x ?? 0)}
				y={toY(y ?? 0) + 4.5}
				text-anchor="middle"
				font-size="12"
				fill="currentColor"
				class="figures">{written(value ?? 0)}</text>
		{/each}
		<g fill="currentColor" font-size="12" opacity="0.8">
			<text x={left + size / 2} y={size + 24} text-anchor="middle">{name} →</text>
			<text transform="translate(12 {size / 2}) rotate(-90)" text-anchor="middle">{map.other_name} →</text>
		</g>
	</svg>
</figure>
