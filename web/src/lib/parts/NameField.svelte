<script lang="ts">
	/** A name, edited in place: Enter keeps it, Escape takes it back. */
	let {
		value,
		label,
		onchange,
		strong = false
	}: { value: string; label: string; onchange: (value: string) => void; strong?: boolean } = $props();

	function commit(field: HTMLInputElement) {
		const clean = field.value.trim();
		if (clean && clean !== value) onchange(clean);
		else field.value = value;
	}
</script>

<input
	class="cell-input"
	class:font-semibold={strong}
	aria-label={label}
	maxlength="120"
	{value}
	onblur={(event) => commit(event.currentTarget)}
	onkeydown={(event) => {
		const input = event.currentTarget as HTMLInputElement;
		if (event.key === 'Enter') input.blur();
		if (event.key === 'Escape') {
			input.value = value;
			queueMicrotask(() => input.blur());
		}
	}} />
