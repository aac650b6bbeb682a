<script lang="ts">
	/**
	 * How desirable each value is, as a curve over what the shelf shows. Its ends and slopes are dragged, or moved by
	 * arrows; Delete opens an end. The server judges by the same curve: here it is only drawn.
	 */
	import type { Target, TargetScale } from '$lib/api/client';

	type Props = { target: Target; scale: TargetScale; label: string; onchange: (target: Target) => unknown };
	let { target, scale, label, onchange }: Props = $props();
	type Handle = 'low' | 'high' | 'soft_low' | 'soft_high';
	const HEIGHT = 46;
	const BASE = 36;
	const TOP = 5;
	let width = $state(260);
	let moved = $state<Target | null>(null);
	let holding = $state<Handle | null>(null);
	const now = $derived(moved ?? target);
	const played = $derived(scale.played ?? []);
	const below = $derived(now.soft_low ?? scale.half_below);
	const above = $derived(now.soft_high ?? scale.half_above);
	// The axis is that of what is kept, so that it stands still while somebody drags.
	const ends = $derived([
		...played.map((one) => one.value),
		...[target.low, target.high].filter((end) => end != null),
		...(target.low == null ? [] : [target.low - 1.4 * (target.soft_low ?? scale.half_below)]),
		...(target.high == null ? [] : [target.high + 1.4 * (target.soft_high ?? scale.half_above)])
	]);
	const least = $derived(ends.length ? Math.min(...ends) - 2 * scale.step : -scale.step * 10);
	const most = $derived(ends.length ? Math.max(...ends) + 2 * scale.step : scale.step * 10);
	const x = (value: number) => 8 + ((value - least) / (most - least)) * (width - 16);
	const y = (fit: number) => BASE - fit * (BASE - TOP);
	const wish = (value: number) => {
		const miss =
			now.low != null && value < now.low
				? (now.low - value) / below
				: now.high != null && value > now.high
					? (value - now.high) / above
					: 0;
		return 1 / (1 + miss * miss);
	};
	const curve = $derived(
		Array.from({ length: 81 }, (_, n) => least + ((most - least) * n) / 80)
			.map((value) => `${x(value).toFixed(1)},${y(wish(value)).toFixed(1)}`)
			.join(' ')
	);
	const words = (value: number) => `${value.toFixed(scale.decimals).replace('-', '−')} ${scale.unit}`.trim();
	const handles = $derived<{ key: Handle; at: number; name: string; text: string }[]>([
		{
			key: 'low',
			at: now.low ?? least,
			name: `${label}: begins`,
			text: now.low == null ? 'open' : words(now.low)
		},
		{ key: 'high', at: now.high ?? most, name: `${label}: ends`, text: now.high == null ? 'open' : words(now.high) },
		...(now.low == null
			? []
			: [
					{
						key: 'soft_low' as const,
						at: now.low - below,
						name: `${label}: half as good below`,
						text: words(now.low - below)
					}
				]),
		...(now.high == null
			? []
			: [
					{
						key: 'soft_high' as const,
						at: now.high + above,
						name: `${label}: half as good above`,
						text: words(now.high + above)
					}
				])
	]);
	const round = (value: number) => Number(value.toFixed(scale.decimals + 1));

	/** The target with one handle at a value. */
	function put(key: Handle, value: number): Target {
		const at = round(value);
		if (key === 'low') return { ...now, low: now.high == null ? at : Math.min(at, now.high) };
		if (key === 'high') return { ...now, high: now.low == null ? at : Math.max(at, now.low) };
		const least = scale.step / 2;
		if (key === 'soft_low') return { ...now, soft_low: round(Math.max(least, (now.low ?? 0) - value)) };
		return { ...now, soft_high: round(Math.max(least, value - (now.high ?? 0))) };
	}

	const open = (key: Handle): Target =>
		key === 'low'
			? { ...now, low: null }
			: key === 'high'
				? { ...now, high: null }
				: key === 'soft_low'
					? { ...now, soft_low: null }
					: { ...now, soft_high: null };

	let later: ReturnType<typeof setTimeout> | undefined;
	function keep() {
		clearTimeout(later);
		const next = moved;
		holding = null;
		if (!next) return;
		void Promise.resolve(onchange(next)).finally(() => (moved = null));
	}

	function press(event: KeyboardEvent, key: Handle, at: number) {
		const steps: Record<string, number> = {
			ArrowRight: 0.5,
			ArrowUp: 0.5,
			ArrowLeft: -0.5,
			ArrowDown: -0.5,
			PageUp: 3,
			PageDown: -3
		};
		const by = steps[event.key];
		// With Ctrl an arrow leaves for the next control.
		if (event.ctrlKey || (by === undefined && event.key !== 'Delete')) return;
		event.preventDefault();
		event.stopPropagation();
		moved = by === undefined ? open(key) : put(key, at + by * scale.step);
		clearTimeout(later);
		later = setTimeout(keep, 500);
	}

	function drag(event: PointerEvent) {
		if (!holding) return;
		const box = (event.currentTarget as SVGElement).ownerSVGElement!.getBoundingClientRect();
		const share = (event.clientX - box.left - 8) / (width - 16);
		moved = put(holding, least + Math.min(1, Math.max(0, share)) * (most - least));
	}

	const good = $derived(played.filter((one) => wish(one.value) >= 0.5).map((one) => one.name));
</script>

<span class="block my-1 min-w-56" bind:clientWidth={width}>
	<svg {width} height={HEIGHT} role="group" aria-label="{label}: how good each value is" class="block select-none">
		<polygon points="{x(least)},{BASE} {curve} {x(most)},{BASE}" class="fill-base-300" />
		<line x1="8" x2={width - 8} y1={BASE} y2={BASE} class="stroke-base-content" opacity="0.35" />
		{#each played as one (one.name)}
			<circle
				cx={x(one.value)}
				cy={BASE}
				r="4"
				class={wish(one.value) >= 0.5 ? 'fill-base-content' : 'fill-base-content/40'} />
		{/each}
		{#each handles as one (one.key)}
			{@const soft = one.key.startsWith('soft')}
			{@const openEnd = !soft && now[one.key] == null}
			<g
				role="slider"
				tabindex="0"
				aria-label={one.name}
				aria-valuemin={least}
				aria-valuemax={most}
				aria-valuenow={one.at}
				aria-valuetext={one.text}
				onkeydown={(event) => press(event, one.key, one.at)}>
				<rect x={x(one.at) - 3} y={TOP} width="6" height={BASE - TOP} fill="transparent" />
				{#if soft}
					<rect
						x={x(one.at) - 3.5}
						y={y(0.5) - 3.5}
						width="7"
						height="7"
						class="fill-base-100 stroke-primary"
						stroke-width="1.5" />
				{:else}
					<line
						x1={x(one.at)}
						x2={x(one.at)}
						y1={TOP - 3}
						y2={BASE}
						class="stroke-primary"
						stroke-width="3"
						stroke-dasharray={openEnd ? '2 4' : undefined}
						opacity={openEnd ? 0.6 : 1} />
				{/if}
			</g>
			<!-- What a finger can take hold of is wider than the handle; the handle itself takes the keys. -->
			<rect
				aria-hidden="true"
				x={x(one.at) - 9}
				y={soft ? y(0.5) - 9 : 0}
				width="18"
				height={soft ? 18 : HEIGHT}
				fill="transparent"
				class="cursor-ew-resize touch-none"
				onpointerdown={(event) => {
					event.currentTarget.setPointerCapture(event.pointerId);
					(event.currentTarget.previousElementSibling as SVGElement | null)?.focus();
					holding = one.key;
				}}
				onpointermove={drag}
				onpointerup={keep}
				onpointercancel={keep} />
		{/each}
		{#if holding || moved}
			{@const one = handles.find((each) => each.key === holding)}
			{#if one}<text
					x={Math.min(width - 40, Math.max(30, x(one.at)))}
					y={HEIGHT - 1}
					text-anchor="middle"
					class="fill-current text-xs">{one.text}</text
				>{/if}
		{/if}
	</svg>
	{#if played.length}
		<span class="block text-xs quiet">
			{good.length
				? `Good enough: ${good.slice(0, 4).join(', ')}`
				: 'Nothing that was played is good enough'}{good.length > 4
				? ` and ${good.length - 4} more`
				: ''}{good.length && good.length < played.length ? `; not so: ${played.length - good.length}` : ''}
		</span>
	{/if}
</span>
