<script lang="ts">
	/** An amount, typed as people write it and read by the server; what is no amount stays there and says why. */
	import { api, got } from '../api/client';
	import { fromMinor } from '../money';

	type Props = {
		minor: number | null | undefined;
		currency: string;
		decimals: number;
		label?: string;
		placeholder?: string;
		class?: string;
		onchange: (minor: number | null) => unknown;
	};
	let { minor, currency, decimals, label, placeholder = 'none', class: look = 'input', onchange }: Props = $props();
	const id = $props.id();
	const before = $derived(fromMinor(minor, decimals));
	let typed = $derived(before);
	let problem = $state('');

	async function commit(text: string) {
		typed = text;
		const written = text.trim();
		if (written === before) problem = '';
		else if (!written) {
			problem = '';
			onchange(null);
		} else
			try {
				const params = { query: { text: written, currency } };
				const read = await got(api.GET('/api/amount', { params }));
				problem = '';
				typed = fromMinor(read.price_minor, decimals);
				if (read.price_minor !== minor) onchange(read.price_minor);
			} catch (error) {
				problem = error instanceof Error ? error.message : String(error);
			}
	}
</script>

<input
	class="{look} figures {problem ? 'input-error' : ''}"
	inputmode="decimal"
	aria-label={label}
	aria-invalid={problem !== ''}
	aria-describedby={problem ? id : undefined}
	{placeholder}
	value={typed}
	onchange={(event) => commit(event.currentTarget.value)} />
{#if problem}<span {id} role="alert" class="text-error text-xs">{problem}</span>{/if}
