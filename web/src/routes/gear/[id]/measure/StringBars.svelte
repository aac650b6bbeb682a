<script lang="ts">
	/** Six strings, the lowest first: how far each stands over or under the mean of all. */
	let { levels, band }: { levels: number[]; band: number | null } = $props();
	const FULL_DB = 4;
	const height = 38;
	const toY = (db: number) => height / 2 - (Math.max(-FULL_DB, Math.min(FULL_DB, db)) / FULL_DB) * (height / 2 - 2);
	const said = $derived(
		levels
			.map((db, i) => `string ${6 - i} ${db.toFixed(1)}`)
			.join(', ')
			.replaceAll('-', '−')
	);
</script>

<svg width="126" {height} role="img" aria-label="{said} dB">
	<line x1="0" x2="126" y1={height / 2} y2={height / 2} stroke="currentColor" opacity="0.5" />
	{#if band}
		<rect x="0" width="126" y={toY(band)} height={toY(-band) - toY(band)} fill="currentColor" opacity="0.1" />
	{/if}
	{#each levels as db, i (i)}
		<rect
			x={4 + i * 21}
			width="13"
			y={Math.min(toY(db), height / 2)}
			height={Math.max(1.5, Math.abs(toY(db) - height / 2))}
			fill="var(--c0)">
			<title>string {6 - i}: {db.toFixed(1).replace('-', '−')} dB</title>
		</rect>
	{/each}
</svg>
