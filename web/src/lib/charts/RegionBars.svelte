<script lang="ts">
	/** The six regions as groups of bars, one bar a contender; as they are or as differences. */
	import Frame from './Frame.svelte';
	import { scaleLinear } from 'd3-scale';

	type Row = { name: string; letter: string; colour: number; values: (number | null)[] };
	let { names, rows, title, difference }: { names: string[]; rows: Row[]; title: string; difference: boolean } =
		$props();

	let width = $state(640);
	const height = 210;
	const margin = { top: 12, right: 8, bottom: 40, left: 40 };
	const known = $derived(rows.flatMap((row) => row.values.filter((v): v is number => v !== null)));
	const domain = $derived.by<[number, number]>(() => {
		if (difference) {
			const reach = Math.max(3, ...known.map(Math.abs));
			return [-reach * 1.1, reach * 1.1];
		}
		return [Math.min(-30, ...known), 0];
	});
	const toY = $derived(
		scaleLinear()
			.domain(domain)
			.range([height - margin.bottom, margin.top])
	);
	const group = $derived((width - margin.left - margin.right) / names.length);
	const bar = $derived(Math.min(26, (group - 14) / Math.max(1, rows.length)));
	const base = $derived(toY(difference ? 0 : domain[0]));
	const left = (region: number, row: number) =>
		margin.left + group * region + (group - bar * rows.length) / 2 + bar * row;
</script>

<Frame bind:width {title}>
	<svg {width} {height} role="img" aria-label={title}>
		{#each toY.ticks(5) as tick (tick)}
			<line
				x1={margin.left}
				x2={width - margin.right}
				y1={toY(tick)}
				y2={toY(tick)}
				stroke="currentColor"
				opacity={tick === 0 ? 0.6 : 0.14} />
			<text x={margin.left - 6} y={toY(tick) + 4} text-anchor="end" font-size="12" fill="currentColor">{tick}</text>
		{/each}
		{#each names as name, region (name)}
			{@const [word, range] = name.split(', ')}
			<text
				x={margin.left + group * (region + 0.5)}
				y={height - 22}
				text-anchor="middle"
				font-size="13"
				font-weight="600"
				fill="currentColor">{word}</text>
			<text
				x={margin.left + group * (region + 0.5)}
				y={height - 7}
				text-anchor="middle"
				font-size="11"
				fill="currentColor">{range}</text>
			{#each rows as row, i (row.letter)}
				{@const value = row.values[region]}
				{#if value !== null && value !== undefined}
					<rect
						x={left(region, i) + 1}
						y={Math.min(base, toY(value))}
						width={Math.max(2, bar - 2)}
						height={Math.max(1.5, Math.abs(base - toY(value)))}
						fill="var(--c{row.colour})">
						<title>{row.name}: {value.toFixed(1)} dB</title>
					</rect>
					{#if bar >= 12}
						<text
							x={left(region, i) + bar / 2}
							y={value < 0 && difference ? toY(value) + 12 : toY(value) - 3}
							text-anchor="middle"
							font-size="11"
							font-weight="600"
							fill="currentColor">{row.letter}</text>
					{/if}
				{/if}
			{/each}
		{/each}
	</svg>
</Frame>
