<script lang="ts">
	/** A name, edited in place: Enter keeps it, Escape takes it back. */
	let {
		value,
		label,
		onchange,
		strong = false
	}: { value: string; label: string; onchange: (value: string) => void; strong?: boolean } = $props();
	let text = $derived(value);

	function commit() {
		const clean = text.trim();
		if (clean && clean !== value) onchange(clean);
		else text = value;
	}
</script>

<input
	class="cell-input"
	class:font-semibold={strong}
	aria-label={label}
	maxlength="120"
	bind:value={text}
	onblur={commit}
	onkeydown={(event) => {
		const input = event.currentTarget as HTMLInputElement;
		if (event.key === 'Enter') input.blur();
		if (event.key === 'Escape') {
			text = value;
			queueMicrotask(() => input.blur());
		}
	}} />
