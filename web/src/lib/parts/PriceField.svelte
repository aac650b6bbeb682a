<script lang="ts">
	/** A price, typed in place; empty for none. */
	import { fromMinor, toMinor } from '../money';

	let {
		minor,
		currency,
		decimals,
		label,
		onchange
	}: {
		minor: number | null;
		currency: string;
		decimals: number;
		label: string;
		onchange: (minor: number | null) => void;
	} = $props();
	let text = $derived(fromMinor(minor, decimals));

	function commit() {
		const value = toMinor(text, decimals);
		text = fromMinor(value, decimals);
		if (value !== minor) onchange(value);
	}
</script>

<span class="inline-flex items-center gap-1">
	<input
		class="cell-input figures text-right !w-24"
		inputmode="decimal"
		aria-label={label}
		placeholder="price"
		bind:value={text}
		onblur={commit}
		onkeydown={(event) => event.key === 'Enter' && (event.currentTarget as HTMLInputElement).blur()} />
	<span class="text-xs quiet">{currency}</span>
</span>
