<script lang="ts">
	/** Beside a field that is typed in: what it became meanwhile, and which of the two holds. */
	import { notices } from '../notices.svelte';
	import { typing } from '../typing.svelte';

	const WIDTH = 320;
	const at = $derived.by(() => {
		const box = typing.met?.field.getBoundingClientRect();
		return box ? { left: Math.max(8, Math.min(box.left, innerWidth - WIDTH - 8)), top: box.bottom + 4 } : null;
	});

	function key(event: KeyboardEvent) {
		if (event.key !== 'Escape') return;
		// Escape means the state that is kept, which is theirs where somebody else wrote.
		if (typing.met) {
			event.stopPropagation();
			typing.takeTheirs();
		} else typing.sent(event.target);
	}

	function changed(event: Event) {
		const before = typing.sent(event.target);
		if (before !== null) notices.say(`Yours is kept. Meanwhile it had become “${before}”.`);
	}
</script>

<svelte:window
	onfocusin={(event) => typing.begin(event.target)}
	onfocusout={(event) => {
		// A field commits as it is left; its own listener runs first.
		const target = event.target;
		queueMicrotask(() => document.activeElement !== target && typing.end());
	}}
	oninputcapture={(event) => typing.typed(event.target)}
	onchangecapture={changed}
	onkeydowncapture={key} />

{#if typing.met && at}
	<div
		class="fixed z-50 border border-primary rounded-box bg-base-200 px-3 py-2 text-sm"
		style="left: {at.left}px; top: {at.top}px; width: {WIDTH}px"
		role="status">
		<p>Meanwhile it became “{typing.met.theirs || 'empty'}”.</p>
		<button
			class="btn btn-xs mt-1"
			onmousedown={(event) => {
				event.preventDefault();
				typing.takeTheirs();
			}}>Take that <kbd class="hint">Escape</kbd></button>
		<span class="quiet">What you type here holds once you leave the field.</span>
	</div>
{/if}
