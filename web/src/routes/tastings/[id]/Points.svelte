<script lang="ts">
	/** Points for each glass on a line from 0 to 100. */
	let {
		labels,
		points = $bindable(),
		hear,
		heard
	}: {
		labels: string[];
		points: Record<string, number>;
		hear: (label: string) => void;
		heard: string | null;
	} = $props();
</script>

<div class="grid gap-3 max-w-3xl">
	{#each labels as label (label)}
		<div class="flex items-center gap-4">
			<span class="text-2xl font-bold figures w-8 text-center {heard === label ? 'text-primary' : ''}">{label}</span>
			<span class="quiet text-sm">far</span>
			<input
				type="range"
				class="range grow"
				min="0"
				max="100"
				step="1"
				aria-label="Points for glass {label}"
				value={points[label] ?? 50}
				onfocus={() => hear(label)}
				oninput={(event) => (points[label] = Number(event.currentTarget.value))} />
			<span class="quiet text-sm">the same</span>
			<span class="figures text-xl w-12 text-right">{points[label] ?? '–'}</span>
		</div>
	{/each}
</div>
