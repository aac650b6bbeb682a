<script lang="ts">
	/** A contender's mark: colour, letter, and a dash pattern, the same on every page. */
	import { DASHES } from '../charts/marks';

	let { letter, colour, size = 'm' }: { letter: string; colour: number; size?: 's' | 'm' | 'l' } = $props();
	const box = { s: 18, m: 26, l: 54 };
</script>

<svg width={box[size]} height={box[size]} viewBox="0 0 26 26" aria-hidden="true" class="shrink-0">
	<path d="M2 2h22v13l-9 9H2z" fill="var(--c{colour})" />
	<line
		x1="2"
		y1="24.5"
		x2="26"
		y2="24.5"
		stroke="var(--c{colour})"
		stroke-width="2.5"
		stroke-dasharray={DASHES[colour]} />
	<text
		x="10.5"
		y="16"
		text-anchor="middle"
		font-size="13"
		font-weight="700"
		fill="var(--c-ink)"
		font-family="var(--font-figures)">{letter}</text>
</svg>
