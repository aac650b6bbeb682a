<script lang="ts">
	/** What one knob does over its travel: the curve between measured points, its useful part shaded. */
	import type { KnobPower } from '$lib/api/client';

	let { knob }: { knob: KnobPower } = $props();
	const width = 220;
	const height = 84;
	const values = $derived((knob.curve ?? knob.points ?? []).map((point) => point[1] ?? 0));
	const low = $derived(Math.min(...values));
	const high = $derived(Math.max(...values));
	const toX = (position: number) => 8 + position * (width - 16);
	const toY = $derived((value: number) => height - 8 - ((value - low) / (high - low || 1)) * (height - 16));
</script>

<article class="border rule rounded-box p-3 min-w-0">
	<h3 class="font-semibold">{knob.name}</h3>
	{#if knob.refusal}
		<p class="text-sm quiet">Not known: {knob.refusal}.</p>
	{:else}
		<p class="text-sm mb-1">{knob.sentence}</p>
		{#if knob.points && knob.points.length > 1}
			<svg
				{width}
				{height}
				role="img"
				aria-label="{knob.name}: {knob.moves} by position, {low.toFixed(0)} to {high.toFixed(0)} dB">
				{#if knob.useful}
					<rect
						x={toX(knob.useful[0] ?? 0)}
						y="2"
						width={Math.max(0, toX(knob.useful[1] ?? 1) - toX(knob.useful[0] ?? 0))}
						height={height - 4}
						fill="currentColor"
						opacity="0.08" />
				{/if}
				{#if knob.curve}
					<polyline
						points={knob.curve.map((p) => `${toX(p[0] ?? 0)},${toY(p[1] ?? 0)}`).join(' ')}
						fill="none"
						stroke="var(--c0)"
						stroke-width="2" />
				{/if}
				{#each knob.points as point (point[0])}
					<circle cx={toX(point[0] ?? 0)} cy={toY(point[1] ?? 0)} r="4" fill="var(--c0)" />
				{/each}
			</svg>
			<p class="text-xs quiet">
				{knob.moves}, dots measured{knob.curve ? ', the line drawn between them' : ''}{knob.useful
					? '; shaded: most of the change'
					: ''}{knob.left_out != null ? `; a left-out position is foretold within ${knob.left_out.toFixed(1)} dB` : ''}
			</p>
		{/if}
		{#if knob.missing}<p class="text-sm mt-1">
				<span class="text-warning font-semibold">Next:</span>
				{knob.missing}
			</p>{/if}
	{/if}
</article>
