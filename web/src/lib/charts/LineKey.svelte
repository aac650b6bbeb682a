<script lang="ts">
	/** What a line of a chart means: a piece of it, and its name. */
	let { name, colour, width, dash = '' }: { name: string; colour: number; width: number; dash?: string } = $props();
</script>

<span class="inline-flex items-center gap-1.5">
	<svg width="26" height="6" aria-hidden="true">
		<line x1="0" x2="26" y1="3" y2="3" stroke="var(--c{colour})" stroke-width={width} stroke-dasharray={dash} />
	</svg>
	{name}
</span>
