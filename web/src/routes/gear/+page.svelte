<script lang="ts">
	/** The shelf: what is there, at what price? */
	import { goto } from '$app/navigation';
	import { createQuery } from '@tanstack/svelte-query';
	import { api, got, type Gear, type GearKind } from '$lib/api/client';
	import { notices } from '$lib/notices.svelte';
	import Empty from '$lib/parts/Empty.svelte';
	import Fingerprint from '$lib/parts/Fingerprint.svelte';
	import Loading from '$lib/parts/Loading.svelte';
	import Table from '$lib/parts/Table.svelte';
	import { useMeta } from '$lib/meta';

	const meta = useMeta();
	let words = $state('');
	let kind = $state('');
	let sort = $state<'kind' | 'name' | 'price' | 'newest'>('kind');
	let name = $state('');
	let newKind = $state<GearKind>('pedal');

	const PAGE = 100;
	let offset = $state(0);
	type Shelf = { items: Gear[]; total: number };
	const gear = createQuery(() => ({
		queryKey: ['gear', words, kind, sort, offset],
		queryFn: async (): Promise<Shelf> => {
			const answer = api.GET('/api/gear', { params: { query: { q: words, kind, sort, offset, limit: PAGE } } });
			const items = await got(answer);
			return { items, total: Number((await answer).response.headers.get('x-total-count') ?? items.length) };
		},
		placeholderData: (before: Shelf | undefined) => before
	}));
	const shown = $derived(gear.data?.items ?? []);
	const total = $derived(gear.data?.total ?? 0);

	async function add(event: SubmitEvent) {
		event.preventDefault();
		try {
			const item = await got(
				api.POST('/api/gear', {
					body: { kind: newKind, name: name.trim(), about: '', structure: '', controls: [], specs: {} }
				})
			);
			name = '';
			await goto(`/gear/${item.id}`);
		} catch (error) {
			notices.fail(error);
		}
	}
</script>

<svelte:head><title>Gear · Cata</title></svelte:head>

<div class="flex flex-wrap items-center gap-3 mb-3">
	<h1 class="grow">Gear</h1>
	<a class="btn btn-sm" href="/gear/import">Read in a file</a>
	<a class="btn btn-sm" href="/api/gear/export.csv" download="shelf.csv">Write out CSV</a>
	<a class="btn btn-sm" href="/api/gear/export.json" download="shelf.json">JSON</a>
</div>
<div class="flex flex-wrap gap-2 mb-3 items-end">
	<label class="flex flex-col text-sm"
		>Search
		<input class="input input-sm w-56" bind:value={words} type="search" oninput={() => (offset = 0)} />
	</label>
	<label class="flex flex-col text-sm"
		>Kind
		<select class="select select-sm w-40" bind:value={kind} onchange={() => (offset = 0)}>
			<option value="">all kinds</option>
			{#each meta.data?.choices.gear_kinds ?? [] as one (one)}<option>{one}</option>{/each}
		</select>
	</label>
	<label class="flex flex-col text-sm"
		>Order
		<select class="select select-sm w-32" bind:value={sort}>
			{#each meta.data?.choices.shelf_orders ?? [] as one (one.key)}<option value={one.key}>{one.name}</option>{/each}
		</select>
	</label>
	<span class="grow"></span>
	<form class="flex flex-wrap gap-2 items-end" onsubmit={add}>
		<label class="flex flex-col text-sm"
			>New item
			<input
				class="input input-sm w-48"
				bind:value={name}
				maxlength={meta.data?.limits.name}
				required
				placeholder="its name" />
		</label>
		<select class="select select-sm w-36" bind:value={newKind} aria-label="Kind of the new item">
			{#each meta.data?.choices.gear_kinds ?? [] as one (one)}<option>{one}</option>{/each}
		</select>
		<button class="btn btn-sm">Add</button>
	</form>
</div>

{#if !gear.data}
	<Loading error={gear.error} retry={() => gear.refetch()} />
{:else if shown.length === 0 && !words && !kind}
	<Empty title="The shelf is empty">
		<p>
			Put the gear here that you compare or own: its knobs, so that settings can be written down, and its prices, so
			that a ranking knows them. A flight also works without: a contender can be just a name and a price.
		</p>
	</Empty>
{:else if shown.length === 0}
	<p class="quiet">Nothing on the shelf fits that search.</p>
{:else}
	{#if total > PAGE}
		<p class="flex gap-3 items-center mb-2" role="status">
			<span class="figures">{offset + 1}–{Math.min(offset + PAGE, total)} of {total}</span>
			<button class="btn btn-xs" disabled={offset === 0} onclick={() => (offset = Math.max(0, offset - PAGE))}
				>Earlier</button>
			<button class="btn btn-xs" disabled={offset + PAGE >= total} onclick={() => (offset += PAGE)}>Later</button>
		</p>
	{/if}
	<Table>
		<thead>
			<tr
				><th>Name</th><th><span class="sr-only">Fingerprint</span></th><th>Kind</th><th>Knobs</th><th class="text-right"
					>New</th
				><th class="text-right">Used</th></tr>
		</thead>
		<tbody>
			{#each shown as item (item.id)}
				{@const price = (of: string) => item.prices.find((one) => one.kind === of)?.text ?? ''}
				<tr class="hover:bg-base-200">
					<td>
						<a class="font-semibold hover:underline underline-offset-2" href="/gear/{item.id}">{item.name}</a>
						<span class="block text-sm quiet">{item.about}</span>
					</td>
					<td><Fingerprint gear={item.id} /></td>
					<td>{item.kind}</td>
					<td class="text-sm">{item.controls.map((control) => control.name).join(', ')}</td>
					<td class="text-right figures whitespace-nowrap">{price('new')}</td>
					<td class="text-right figures whitespace-nowrap">{price('used')}</td>
				</tr>
			{/each}
		</tbody>
	</Table>
{/if}
