<script lang="ts">
	/** Curves over one axis, labelled where they end; frequencies on a log axis at third-octave ticks. */
	import Frame from './Frame.svelte';
	import { scaleLinear, scaleLog } from 'd3-scale';
	import { line as pathOf } from 'd3-shape';
	import { DASHES, LABELLED_HZ, TICK_HZ, hz } from './marks';

	export type Curve = { name: string; colour: number; y: (number | null)[]; strong?: boolean; dash?: string };
	type Band = { name: string; from: number; to: number };
	let {
		x,
		curves,
		xLabel,
		yLabel,
		title,
		logX = false,
		marks = [],
		bands = [],
		height = 260,
		zero = false,
		depth = Infinity,
		least = 0
	}: {
		x: number[];
		curves: Curve[];
		xLabel: string;
		yLabel: string;
		title: string;
		logX?: boolean;
		marks?: [number, string][];
		bands?: Band[];
		height?: number;
		zero?: boolean;
		depth?: number;
		/** The least span of y: what hardly moves is drawn flat. */
		least?: number;
	} = $props();

	const plotId = $props.id();
	let width = $state(640);
	const margin = { top: 22, right: 12, bottom: 34, left: 46 };
	const known = $derived(curves.flatMap((curve) => curve.y.filter((v): v is number => v !== null)));
	const domainX = $derived<[number, number]>([x[0] ?? 0, x[x.length - 1] ?? 1]);
	const domainY = $derived.by<[number, number]>(() => {
		if (!known.length) return [0, 1];
		const high = Math.max(...known, ...(zero ? [0] : []));
		// What lies far below the rest (noise) must not flatten what is heard.
		const low = Math.max(high - depth, Math.min(...known, ...(zero ? [0] : [])));
		const room = Math.max((high - low || 1) * 0.06, (least - (high - low)) / 2);
		return [low - room, high + room];
	});
	const toX = $derived((logX ? scaleLog() : scaleLinear()).domain(domainX).range([margin.left, width - margin.right]));
	const toY = $derived(
		scaleLinear()
			.domain(domainY)
			.range([height - margin.bottom, margin.top])
	);
	const ticksX = $derived(
		logX ? TICK_HZ.filter((f) => f >= domainX[0] && f <= domainX[1]) : scaleLinear().domain(domainX).ticks(8)
	);
	const path = $derived(
		pathOf<[number, number | null]>()
			.defined((point) => point[1] !== null)
			.x((point) => toX(point[0]))
			.y((point) => toY(point[1] ?? 0))
	);
	const points = (curve: Curve) => curve.y.map((v, i): [number, number | null] => [x[i] ?? 0, v]);
</script>

<Frame bind:width {title}>
	<svg {width} {height} role="img" aria-label={title}>
		<clipPath id={plotId}>
			<rect
				x={margin.left}
				y={margin.top}
				width={Math.max(0, width - margin.left - margin.right)}
				height={height - margin.top - margin.bottom} />
		</clipPath>
		{#each bands as band, i (band.name)}
			<rect
				x={toX(Math.max(band.from, domainX[0]))}
				y={margin.top}
				width={Math.max(0, toX(Math.min(band.to, domainX[1])) - toX(Math.max(band.from, domainX[0])))}
				height={height - margin.top - margin.bottom}
				fill="currentColor"
				opacity={i % 2 ? 0.055 : 0.02} />
			<text
				x={(toX(Math.max(band.from, domainX[0])) + toX(Math.min(band.to, domainX[1]))) / 2}
				y={margin.top - 7}
				text-anchor="middle"
				font-size="12"
				fill="currentColor">{band.name}</text>
		{/each}
		{#each toY.ticks(5) as tick (tick)}
			<line
				x1={margin.left}
				x2={width - margin.right}
				y1={toY(tick)}
				y2={toY(tick)}
				stroke="currentColor"
				opacity={zero && tick === 0 ? 0.7 : 0.14} />
			<text x={margin.left - 6} y={toY(tick) + 4} text-anchor="end" font-size="12" fill="currentColor">{tick}</text>
		{/each}
		{#each ticksX as tick (tick)}
			<line
				x1={toX(tick)}
				x2={toX(tick)}
				y1={height - margin.bottom}
				y2={height - margin.bottom + (logX && !LABELLED_HZ.includes(tick) ? 3 : 6)}
				stroke="currentColor"
				opacity="0.6" />
			{#if !logX || LABELLED_HZ.includes(tick)}
				<text x={toX(tick)} y={height - margin.bottom + 18} text-anchor="middle" font-size="12" fill="currentColor"
					>{logX ? hz(tick) : tick}</text>
			{/if}
		{/each}
		<text x={width - margin.right} y={height - 3} text-anchor="end" font-size="12" fill="currentColor">{xLabel}</text>
		<text x="2" y={margin.top - 7} font-size="12" fill="currentColor">{yLabel}</text>
		{#each curves as curve, i (i)}
			<path
				d={path(points(curve)) ?? ''}
				clip-path="url(#{plotId})"
				fill="none"
				stroke={curve.colour < 0 ? 'currentColor' : `var(--c${curve.colour})`}
				stroke-width={curve.strong ? 3.2 : 1.6}
				stroke-dasharray={curve.dash ?? (curve.colour < 0 ? '' : DASHES[curve.colour])}
				stroke-linejoin="round"
				opacity={curve.colour < 0 ? 0.75 : 1} />
		{/each}
		{#each marks as [at, label], i (i)}
			<line
				x1={toX(at)}
				x2={toX(at)}
				y1={margin.top}
				y2={height - margin.bottom}
				stroke="var(--color-error)"
				stroke-width="1.5"
				stroke-dasharray="3 3" />
			{@const right = toX(at) > width - 110}
			<!-- Above the frame, clear of every curve; beside the line where the bands have their names there. -->
			<text
				x={Math.max(toX(at) + (right ? 5 : -5), bands.length ? 0 : yLabel.length * 6.5 + 14)}
				y={margin.top + (bands.length ? 13 : -7)}
				text-anchor={right ? 'end' : 'start'}
				font-size="13"
				font-weight="600"
				fill="var(--color-error)">{label}</text>
		{/each}
	</svg>
</Frame>
