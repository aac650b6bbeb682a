<script lang="ts">
	/** The recording drawn in lines of five minutes; each take is a block whose ends are dragged, or moved by arrow keys. */
	import type { Piece, Recording } from '$lib/api/plan';

	let {
		data,
		near,
		onchange,
		onnear
	}: {
		data: Recording;
		near: number | null;
		onchange: (index: number, piece: Partial<Piece>) => void;
		onnear: (index: number) => void;
	} = $props();
	const LINE_S = 300;
	const WIDTH = 1200;
	const HEIGHT = 64;
	const lines = $derived(Math.max(1, Math.ceil(data.duration_s / LINE_S)));
	const span = $derived(Math.min(LINE_S, data.duration_s));
	const outline = $derived(data.outline ?? []);
	const step = $derived(data.outline_step_s ?? 0.05);
	type End = 'start_s' | 'end_s';
	let moved = $state<{ index: number; end: End; at: number } | null>(null);

	function path(line: number): string {
		const first = Math.floor((line * LINE_S) / step);
		const last = Math.min(outline.length, Math.floor(((line + 1) * LINE_S) / step));
		const per = Math.max(1, Math.floor((last - first) / WIDTH));
		let d = '';
		for (let i = first; i < last; i += per) {
			let top = 0;
			for (let j = i; j < Math.min(i + per, last); j++) top = Math.max(top, outline[j]!);
			const x = (((i - first) * step) / span) * WIDTH;
			const y = Math.sqrt(top) * (HEIGHT / 2 - 2);
			d += `M${x.toFixed(1)} ${(HEIGHT / 2 - y).toFixed(1)}V${(HEIGHT / 2 + y).toFixed(1)}`;
		}
		return d;
	}

	const at = (piece: Piece, index: number, end: End) =>
		moved && moved.index === index && moved.end === end ? moved.at : piece[end];
	const x = (s: number, line: number) => ((s - line * LINE_S) / span) * WIDTH;

	function seconds(event: PointerEvent & { currentTarget: SVGElement }, line: number): number {
		const box = event.currentTarget.ownerSVGElement!.getBoundingClientRect();
		const share = Math.min(1, Math.max(0, (event.clientX - box.left) / box.width));
		return Math.min(data.duration_s, line * LINE_S + share * span);
	}

	function finish(index: number) {
		if (!moved) return;
		const { end, at: place } = moved;
		moved = null;
		onchange(index, { [end]: place });
	}

	function key(event: KeyboardEvent, index: number, end: End, piece: Piece) {
		const by = { ArrowLeft: -0.01, ArrowRight: 0.01, PageDown: -1, PageUp: 1 }[event.key];
		if (by === undefined) return;
		event.preventDefault();
		event.stopPropagation();
		onchange(index, { [end]: Math.max(0, piece[end] + by * (event.shiftKey ? 10 : 1)) });
	}
</script>

{#each [...Array(lines).keys()] as line (line)}
	<div class="flex gap-2 items-center">
		<span class="text-xs quiet figures w-10 text-right">{(line * LINE_S) / 60} min</span>
		<svg
			viewBox="0 0 {WIDTH} {HEIGHT}"
			class="grow block bg-base-200"
			height={HEIGHT}
			preserveAspectRatio="none"
			role="group"
			aria-label="Recording from minute {(line * LINE_S) / 60}">
			<path d={path(line)} stroke="currentColor" stroke-opacity="0.55" stroke-width="1" fill="none" />
			{#each data.pieces as piece, i (i)}
				{@const from = at(piece, i, 'start_s')}
				{@const to = at(piece, i, 'end_s')}
				{#if to > line * LINE_S && from < line * LINE_S + span}
					{@const left = Math.max(0, x(from, line))}
					{@const right = Math.min(WIDTH, x(to, line))}
					{@const colour = piece.flag ? 'var(--color-error)' : 'var(--color-primary)'}
					<rect
						x={left}
						y="1"
						width={Math.max(1, right - left)}
						height={HEIGHT - 2}
						fill={colour}
						fill-opacity={near === i ? 0.35 : 0.18}
						stroke={colour}
						stroke-dasharray={piece.flag ? '5 3' : undefined}
						vector-effect="non-scaling-stroke" />
					{#each [['start_s', from, 'Start'], ['end_s', to, 'End']] as const as [end, s, word] (end)}
						{#if s >= line * LINE_S && s <= line * LINE_S + span}
							<line
								x1={x(s, line)}
								x2={x(s, line)}
								y1="0"
								y2={HEIGHT}
								stroke={colour}
								stroke-width="7"
								stroke-opacity="0.01"
								class="cursor-ew-resize touch-none focus:[stroke-opacity:1]"
								vector-effect="non-scaling-stroke"
								role="slider"
								tabindex="0"
								aria-label="{word} of take {piece.take} on the picture"
								aria-valuemin="0"
								aria-valuemax={data.duration_s}
								aria-valuenow={Number(s.toFixed(2))}
								aria-valuetext="{s.toFixed(2)} s"
								onfocus={() => onnear(i)}
								onkeydown={(event) => key(event, i, end, piece)}
								onpointerdown={(event) => {
									event.currentTarget.setPointerCapture(event.pointerId);
									moved = { index: i, end, at: s };
									onnear(i);
								}}
								onpointermove={(event) => {
									if (moved && event.currentTarget.hasPointerCapture(event.pointerId))
										moved = { ...moved, at: seconds(event, line) };
								}}
								onpointerup={() => finish(i)} />
						{/if}
					{/each}
					<text x={left + 3} y="13" font-size="12" fill="currentColor" class="figures">{piece.take}</text>
				{/if}
			{/each}
		</svg>
	</div>
{/each}
<p class="text-sm quiet mt-1">
	Drag the ends of a block, or use the arrow keys on it (hundredths of a second; with Shift tenths; Page keys whole
	ones). Dashed blocks are unsure.
</p>
