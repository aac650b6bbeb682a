<script lang="ts">
	/** What somebody sells together for less: noted, counted where all of it is bought, and taken out again. */
	import { createQuery } from '@tanstack/svelte-query';
	import { api, got, queries } from '$lib/api/client';
	import { arrows } from '$lib/arrows';
	import { notices } from '$lib/notices.svelte';

	let { currency }: { currency: string } = $props();
	const deals = createQuery(() => ({ queryKey: ['deals'], queryFn: () => got(api.GET('/api/deals')) }));
	const names = createQuery(() => ({ queryKey: ['gear-names'], queryFn: () => got(api.GET('/api/gear-names')) }));
	let items = $state<number[]>([]);
	let text = $state('');
	const nameOf = (id: number) => names.data?.find((one) => one.id === id)?.name ?? '';
	const more = $derived((names.data ?? []).filter((one) => !items.includes(one.id)));

	async function change(call: Promise<unknown>): Promise<boolean> {
		try {
			await call;
		} catch (error) {
			notices.fail(error);
			return false;
		}
		await queries.invalidateQueries({ queryKey: ['deals'] });
		await queries.invalidateQueries({ queryKey: ['choice'] });
		return true;
	}
	async function add(event: SubmitEvent) {
		event.preventDefault();
		if (await change(got(api.POST('/api/deals', { body: { items, text, currency, on_date: '', source: '' } }))))
			[items, text] = [[], ''];
	}
</script>

<details class="my-5 no-print">
	<summary class="cursor-pointer w-fit"
		>Sold together for less{deals.data?.length ? ` (${deals.data.length})` : ''}</summary>
	<ul class="text-sm mt-2" {@attach arrows}>
		{#each deals.data ?? [] as deal (deal.id)}
			<li class="flex flex-wrap gap-x-3 items-center py-1 border-t rule">
				<span class="grow"
					>{deal.names.join(' and ')}: {deal.text} less <span class="quiet">({deal.on_date})</span></span>
				<button
					class="btn btn-xs btn-ghost"
					aria-label="Remove the deal of {deal.names.join(' and ')}"
					onclick={() => change(got(api.DELETE('/api/deals/{deal_id}', { params: { path: { deal_id: deal.id } } })))}
					>Remove</button>
			</li>
		{:else}
			<li class="quiet">Note here what a shop takes off when two things or more are bought at once.</li>
		{/each}
	</ul>
	<form class="flex flex-wrap gap-3 items-end mt-2 text-sm" onsubmit={add}>
		<label class="flex flex-col"
			>Bought together
			<select
				class="select select-sm w-56"
				value=""
				onchange={(event) => {
					items = [...items, Number(event.currentTarget.value)];
					event.currentTarget.value = '';
				}}>
				<option value="">choose an item</option>
				{#each more as one (one.id)}<option value={one.id}>{one.name}</option>{/each}
			</select>
		</label>
		{#each items as id (id)}
			<button
				type="button"
				class="btn btn-sm"
				aria-label="{nameOf(id)}: take it out"
				onclick={() => (items = items.filter((one) => one !== id))}>{nameOf(id)}</button>
		{/each}
		<label class="flex flex-col"
			>Less, {currency}
			<input class="input input-sm w-28 figures" inputmode="decimal" bind:value={text} />
		</label>
		<button class="btn btn-sm" disabled={items.length < 2 || !text.trim()}>Note it</button>
	</form>
</details>
