<script lang="ts">
	/** Rates between currencies: asked for where a price needs one, kept with their day. */
	import { createQuery } from '@tanstack/svelte-query';
	import { api, got, queries } from '$lib/api/client';
	import { notices } from '$lib/notices.svelte';

	let { currency, missing }: { currency: string; missing: string[] } = $props();
	const rates = createQuery(() => ({ queryKey: ['rates'], queryFn: () => got(api.GET('/api/rates')) }));

	async function change(call: Promise<unknown>) {
		try {
			await call;
		} catch (error) {
			notices.fail(error);
		}
		await queries.invalidateQueries({ queryKey: ['rates'] });
		await queries.invalidateQueries({ queryKey: ['choice'] });
	}

	const set = (base: string, text: string) =>
		change(got(api.PUT('/api/rates', { body: { base, quote: currency, text, on_date: '', source: '' } })));
	const remove = (rate_id: number) =>
		change(got(api.DELETE('/api/rates/{rate_id}', { params: { path: { rate_id } } })));
</script>

{#if missing.length || rates.data?.length}
	<div class="text-sm mb-4 flex flex-wrap gap-x-6 gap-y-2 items-center no-print">
		{#each missing as base (base)}
			<label class="flex items-center gap-2 text-error font-semibold"
				>Prices in {base} cannot be compared yet: 1 {base} =
				<input
					class="input input-sm w-24 figures text-base-content"
					inputmode="decimal"
					aria-label="What 1 {base} is worth in {currency}"
					onchange={(event) => event.currentTarget.value.trim() && set(base, event.currentTarget.value)} />
				{currency}</label>
		{/each}
		{#each rates.data ?? [] as one (one.id)}
			<span class="quiet figures"
				>{one.text} ({one.on_date})
				<button class="btn btn-xs btn-ghost" aria-label="Remove the rate {one.text}" onclick={() => remove(one.id)}
					>remove</button
				></span>
		{/each}
	</div>
{/if}
