<script lang="ts">
	/** The evidence of a finding, as the server drew it up. */
	import LineChart from '../charts/LineChart.svelte';
	import LineKey from '../charts/LineKey.svelte';

	type Evidence = {
		x: number[];
		series: { name: string; y: (number | null)[] }[];
		x_label: string;
		y_label: string;
		marks: [number, string][];
		log_x: boolean;
	};
	let { picture, title }: { picture: Evidence; title: string } = $props();
	const curves = $derived(
		picture.series.map((one, i) => ({
			name: one.name,
			colour: i === 0 ? 1 : 3,
			y: one.y,
			strong: i === 0,
			dash: i === 0 ? '' : '7 4'
		}))
	);
</script>

<LineChart
	x={picture.x}
	{curves}
	xLabel={picture.x_label}
	yLabel={picture.y_label}
	marks={picture.marks}
	logX={picture.log_x}
	height={190}
	{title} />
{#if picture.series.length > 1}
	<p class="text-sm flex gap-4 flex-wrap">
		{#each picture.series as one, i (i)}
			<LineKey name={one.name} colour={i === 0 ? 1 : 3} width={i === 0 ? 3 : 1.8} dash={i === 0 ? '' : '7 4'} />
		{/each}
	</p>
{/if}
