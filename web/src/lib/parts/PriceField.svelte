<script lang="ts">
	/** A price, typed in place; empty for none. */
	import { notices } from '../notices.svelte';
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
	const text = $derived(fromMinor(minor, decimals));

	/** Only what is an amount is read, and what is not is said: nothing typed stays as if it counted. */
	function commit(field: HTMLInputElement) {
		const typed = field.value.trim();
		const value = toMinor(typed, decimals);
		if (typed && (value === null || /[^\d.,\s\u00a0'’]/.test(typed.replace(currency, '')))) {
			notices.say(`“${typed}” is no amount: write it like 150.00.`, 'error');
			field.value = text;
			return;
		}
		field.value = fromMinor(value, decimals);
		if (value !== minor) onchange(value);
	}
</script>

<span class="inline-flex items-center gap-1">
	<input
		class="cell-input figures text-right !w-20 !min-w-0"
		inputmode="decimal"
		aria-label={label}
		placeholder="price"
		value={text}
		onblur={(event) => commit(event.currentTarget)}
		onkeydown={(event) => event.key === 'Enter' && (event.currentTarget as HTMLInputElement).blur()} />
	<span class="text-xs quiet">{currency}</span>
</span>
