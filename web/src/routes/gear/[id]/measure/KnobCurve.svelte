<script lang="ts">
	/** What one knob does over its travel, and what it gives at any place of it: measured there, or between. */
	import { createQuery } from '@tanstack/svelte-query';
	import { api, got, type KnobPower } from '$lib/api/client';
	import About from '$lib/parts/About.svelte';
	import KnobMap from './KnobMap.svelte';

	let { knob, gear }: { knob: KnobPower; gear: number } = $props();
	const width = 220;
	const height = 84;
	const edge = 8;
	const values = $derived((knob.curve ?? knob.points ?? []).map((point) => point[1] ?? 0));
	const middle = $derived((Math.min(...values) + Math.max(...values)) / 2);
	/** What hardly moves is drawn flat. */
	const least = $derived(knob.unit === '%' ? 10 : knob.unit === 'ms' ? middle : 3);
	const half = $derived(Math.max(Math.max(...values) - middle, least / 2));
	const low = $derived(middle - half);
	const high = $derived(middle + half);
	const places = $derived((knob.points ?? []).map((point) => point[0] ?? 0));
	const toX = (position: number) => edge + position * (width - 2 * edge);
	const toY = $derived((value: number) => height - edge - ((value - low) / (high - low || 1)) * (height - 2 * edge));
	let place = $state<number | null>(null);
	const asked = createQuery(() => ({
		queryKey: ['knob', gear, knob.key, place],
		enabled: place !== null,
		placeholderData: (last: unknown) => last as never,
		queryFn: () =>
			got(
				api.GET('/api/gear/{gear_id}/knobs/{key}', {
					params: { path: { gear_id: gear, key: knob.key }, query: { at: `${Math.round((place ?? 0) * 1000) / 10}%` } }
				})
			)
	}));
</script>

<article class="border rule rounded-box p-3 min-w-0">
	<h3 class="font-semibold">{knob.name}</h3>
	{#if knob.refusal}
		<p class="text-sm quiet">Not known: {knob.refusal.words}.</p>
	{:else}
		<p class="text-sm mb-1">{knob.sentence} {knob.stands?.words ?? ''}</p>
		{#if knob.points && knob.points.length > 1}
			<svg
				viewBox="0 0 {width} {height}"
				class="w-full max-w-80 block"
				role="img"
				aria-label="{knob.name}: {knob.moves} by position, {Math.min(...values).toFixed(0)} to {Math.max(
					...values
				).toFixed(0)} {knob.unit}">
				{#if knob.useful}
					<rect
						x={toX(knob.useful[0] ?? 0)}
						y="2"
						width={Math.max(0, toX(knob.useful[1] ?? 1) - toX(knob.useful[0] ?? 0))}
						height={height - 4}
						fill="currentColor"
						opacity="0.08" />
				{/if}
				{#if place !== null}
					<line x1={toX(place)} x2={toX(place)} y1="2" y2={height - 2} stroke="currentColor" stroke-dasharray="3 3" />
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
			<input
				type="range"
				class="range range-xs range-primary w-full max-w-80 block"
				min={Math.min(...places)}
				max={Math.max(...places)}
				step="0.01"
				value={place ?? places[0]}
				aria-label="A place of {knob.name}"
				aria-valuetext={asked.data?.text ?? ''}
				oninput={(event) => (place = Number(event.currentTarget.value))} />
			{#if place !== null && asked.data}
				<p class="text-sm mt-1" role="status">
					<span class="font-semibold">At {asked.data.text}</span>
					<span class="quiet"
						>{asked.data.readings.some((one) => one.measured) ? 'measured' : 'drawn between measured places'}</span>
				</p>
				<ul class="text-sm columns-2 gap-x-4">
					{#each asked.data.readings as one (one.name)}
						<li class="break-inside-avoid flex justify-between gap-2">
							<span class="quiet"><About name={one.name} about={one.doubt} /></span>
							<span class="figures {one.measured ? 'font-semibold' : 'italic'}">{one.text}</span>
						</li>
					{/each}
				</ul>
			{:else}
				<p class="text-xs quiet">
					{knob.moves}, dots measured{knob.curve ? ', the line drawn between them' : ''}{knob.useful
						? '; shaded: most of the change'
						: ''}{knob.left_out != null
						? `; a left-out position is foretold within ${knob.left_out.toFixed(1)} ${knob.unit}`
						: ''}. Slide to ask for any place.
				</p>
			{/if}
		{/if}
		{#if knob.map}<KnobMap map={knob.map} name={knob.name} />{/if}
		{#if knob.missing}<p class="text-sm mt-1">
				<span class="text-warning font-semibold">Next:</span>
				{knob.missing}
			</p>{/if}
	{/if}
</article>
