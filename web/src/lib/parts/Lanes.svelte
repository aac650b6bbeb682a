<script lang="ts">
	/** The takes as lanes over the common timeline: playhead, loop handles, click to seek. */
	import { player } from '../audio/player.svelte';
	import { clock, tidyLoop } from '../audio/timeline';
	import type { Poured } from '../api/client';

	type Moved = { key: string; by_s: number };
	let {
		height = 64,
		all = false,
		moved = null,
		onmove
	}: {
		height?: number;
		all?: boolean;
		moved?: Moved | null;
		onmove?: (take: Poured, later_s: number) => void;
	} = $props();
	const STEP = 0.01;
	let width = $state(600);
	let box: HTMLDivElement;
	let dragged = false;
	let drag = $state<'start' | 'end' | null>(null);
	let draft = $state<{ start_s: number; end_s: number } | null>(null);

	let pulled = $state<{ take: Poured; from_x: number; by_s: number } | null>(null);

	const length = $derived(Math.max(0.1, player.span.length_s));
	const loop = $derived(draft ?? player.loop);
	const lanes = $derived(all ? player.takes : player.takes.filter((t) => t.key === player.heard));
	const laneHeight = $derived(height / Math.max(1, lanes.length));

	/** The outline of a take from the start of the timeline, as a closed shape around the lane's middle. */
	function shape(take: Poured, middle: number, half: number): string {
		const columns = Math.max(2, Math.floor(width / 2));
		const later_s = (moved?.key === take.key ? moved.by_s : 0) + (pulled?.take.key === take.key ? pulled.by_s : 0);
		const first = (player.span.origin_s + take.lag_s - later_s) / STEP;
		const per = length / STEP / columns;
		const scale = half / Math.max(0.02, ...take.outline);
		const top: string[] = [];
		const bottom: string[] = [];
		for (let column = 0; column < columns; column++) {
			let peak = 0;
			const from = Math.floor(first + column * per);
			for (let i = from; i <= from + per; i++) peak = Math.max(peak, take.outline[i] ?? 0);
			const x = ((column / columns) * width).toFixed(1);
			top.push(`${x},${(middle - peak * scale).toFixed(1)}`);
			bottom.unshift(`${x},${(middle + peak * scale).toFixed(1)}`);
		}
		return `M${top.join('L')}L${bottom.join('L')}Z`;
	}

	const timeAt = (clientX: number) => {
		const rect = box.getBoundingClientRect();
		return Math.min(length, Math.max(0, ((clientX - rect.left) / rect.width) * length));
	};

	/** A lane taken by the hand: it moves with the pointer, and is put down where it is let go. */
	function grasp(event: PointerEvent) {
		if (!onmove) return;
		const rect = box.getBoundingClientRect();
		const take = lanes[Math.floor((event.clientY - rect.top) / laneHeight)];
		if (take) pulled = { take, from_x: event.clientX, by_s: 0 };
		box.setPointerCapture(event.pointerId);
	}

	function pull(event: PointerEvent) {
		if (!pulled) return;
		const by_px = event.clientX - pulled.from_x;
		if (Math.abs(by_px) > 3 || pulled.by_s) pulled = { ...pulled, by_s: (by_px / width) * length };
	}

	function letGo() {
		const { take, by_s } = pulled ?? { take: null, by_s: 0 };
		pulled = null;
		if (!take || !by_s) return;
		dragged = true;
		onmove?.(take, by_s);
	}

	function seekTo(event: MouseEvent) {
		if (!drag && !dragged) player.seek(timeAt(event.clientX));
		dragged = false;
	}

	function moveHandle(event: PointerEvent) {
		if (!drag || !loop) return;
		draft = { ...loop, [`${drag}_s`]: timeAt(event.clientX) };
	}

	function dropHandle() {
		if (draft) player.setLoop(draft);
		draft = null;
		drag = null;
	}

	function handleKey(event: KeyboardEvent, end: 'start' | 'end') {
		const by = { ArrowLeft: -0.05, ArrowRight: 0.05 }[event.key];
		if (by === undefined || !player.loop) return;
		event.preventDefault();
		event.stopPropagation();
		const key = `${end}_s` as const;
		player.setLoop(tidyLoop({ ...player.loop, [key]: player.loop[key] + by }, length));
	}
</script>

<div
	bind:this={box}
	bind:clientWidth={width}
	class="relative w-full select-none touch-none {onmove ? 'cursor-grab' : ''}"
	style="height:{height}px"
	role="presentation"
	onpointerdown={grasp}
	onpointermove={pull}
	onpointerup={letGo}
	onpointercancel={() => (pulled = null)}
	onclick={seekTo}>
	<svg {width} {height} class="absolute inset-0" aria-hidden="true">
		{#if loop}
			<rect
				x={(loop.start_s / length) * width}
				width={((loop.end_s - loop.start_s) / length) * width}
				{height}
				fill="var(--color-primary)"
				opacity="0.13" />
		{/if}
		{#each lanes as take, i (take.key)}
			{@const sounds = take.key === player.heard}
			<path
				d={shape(take, laneHeight * (i + 0.5), laneHeight * 0.44)}
				fill="var(--c{take.colour})"
				opacity={sounds ? 1 : 0.38} />
		{/each}
		<line
			x1={(player.position / length) * width}
			x2={(player.position / length) * width}
			y2={height}
			stroke="currentColor"
			stroke-width="2" />
	</svg>
	{#if loop}
		{#each ['start', 'end'] as const as end (end)}
			<div
				role="slider"
				tabindex="0"
				aria-label="Loop {end}"
				aria-valuemin="0"
				aria-valuemax={Math.round(length * 10) / 10}
				aria-valuenow={Math.round(loop[`${end}_s`] * 100) / 100}
				aria-valuetext={clock(loop[`${end}_s`])}
				class="absolute top-0 bottom-0 w-6 -ml-3 cursor-ew-resize flex justify-center"
				style="left:{(loop[`${end}_s`] / length) * 100}%"
				onpointerdown={(event) => {
					event.stopPropagation();
					drag = end;
					event.currentTarget.setPointerCapture(event.pointerId);
				}}
				onpointermove={moveHandle}
				onpointerup={dropHandle}
				onclick={(event) => event.stopPropagation()}
				onkeydown={(event) => handleKey(event, end)}>
				<span class="w-1 h-full bg-primary"></span>
			</div>
		{/each}
	{/if}
</div>
