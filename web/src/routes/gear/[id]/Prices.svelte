<script lang="ts">
	/** The prices of an item. */
	import { api, got, type Gear } from '$lib/api/client';
	import { useMeta } from '$lib/meta';
	import { notices } from '$lib/notices.svelte';
	import type { Keep } from './item';

	let { gear, keep }: { gear: Gear; keep: Keep } = $props();
	const meta = useMeta();
	let amount = $state('');
	let source = $state('');
	let day = $state('');
	let priceKind = $state<'new' | 'used' | 'offer'>('used');

	async function addPrice(event: SubmitEvent) {
		event.preventDefault();
		const text = amount.trim();
		if (!text) return notices.say('Write an amount, such as 149.00 or 149.00 USD.', 'error');
		const kept = await keep(
			got(
				api.POST('/api/gear/{gear_id}/prices', {
					params: { path: { gear_id: gear.id } },
					body: { kind: priceKind, text, currency: 'EUR', source: source.trim(), on_date: day }
				})
			)
		);
		if (kept) amount = '';
	}
</script>

<section aria-labelledby="prices">
	<h2 id="prices" class="mb-2">Prices</h2>
	<table class="table table-sm mb-3">
		<tbody>
			{#each gear.prices as price (price.id)}
				<tr>
					<td>{price.kind}</td>
					<td class="text-right figures {price.id === gear.price?.id ? 'font-semibold' : ''}">{price.text}</td>
					<td class="text-sm quiet"><span class="figures">{price.on_date || 'no day known'}</span> {price.source}</td>
					<td class="text-right">
						<button
							class="btn btn-ghost btn-xs"
							aria-label="Remove {price.kind} price {price.text}"
							onclick={() =>
								keep(got(api.DELETE('/api/prices/{price_id}', { params: { path: { price_id: price.id } } })))}
							>remove</button>
					</td>
				</tr>
			{:else}<tr><td class="quiet">No price known.</td></tr>{/each}
		</tbody>
	</table>
	<form class="flex flex-wrap gap-2" onsubmit={addPrice}>
		<select class="select select-sm w-24" bind:value={priceKind} aria-label="Kind of price">
			{#each meta.data?.choices.price_kinds ?? [] as one (one.key)}<option value={one.key}>{one.name}</option>{/each}
		</select>
		<input
			class="input input-sm w-28 figures"
			bind:value={amount}
			inputmode="decimal"
			placeholder="149.00 EUR"
			aria-label="Amount" />
		<input class="input input-sm w-36" bind:value={source} placeholder="seen where?" aria-label="Source of the price" />
		<input
			class="input input-sm w-36 figures"
			type="date"
			bind:value={day}
			aria-label="Day of the price; today if left empty" />
		<button class="btn btn-sm">Add price</button>
	</form>
</section>
