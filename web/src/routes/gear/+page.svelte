<script lang="ts">
	/** The shelf: what is there, at what price? */
	import { goto } from '$app/navigation';
	import { createQuery } from '@tanstack/svelte-query';
	import { useAsked } from '$lib/asked.svelte';
	import { api, got, type Gear, type GearKind } from '$lib/api/client';
	import type { paths } from '$lib/api/schema';
	import { notices } from '$lib/notices.svelte';
	import Empty from '$lib/parts/Empty.svelte';
	import Fingerprint from '$lib/parts/Fingerprint.svelte';
	import Loading from '$lib/parts/Loading.svelte';
	import Table from '$lib/parts/Table.svelte';
	import { useMeta } from '$lib/meta';

	const meta = useMeta();
	type Query = NonNullable<paths['/api/gear']['get']['parameters']['query']>;
	const START = {
		q: '',
		kind: '',
		price_kind: '',
		currency: '',
		at_most: '',
		measured: '',
		spec: '',
		spec_from: '',
		spec_to: '',
		sort: 'kind',
		offset: '0'
	};
	type Key = keyof typeof START;
	const wanted = useAsked<Key>(START);
	const filtered = $derived((Object.keys(START) as Key[]).some((key) => key !== 'sort' && wanted[key] !== START[key]));
	const fields = $derived((meta.data?.specs ?? []).filter((one) => !wanted.kind || one.kinds.includes(wanted.kind)));
	const field = $derived(fields.find((one) => one.key === wanted.spec));
	const numbers = $derived(field?.type === 'number' || field?.type === 'whole');
	const ends = $derived<('spec_from' | 'spec_to')[]>(numbers ? ['spec_from', 'spec_to'] : ['spec_from']);
	const first = () => (wanted.offset = '0');
	function clear() {
		Object.assign(wanted, START);
	}
	let name = $state('');
	let newKind = $state<GearKind>('pedal');

	const PAGE = 100;
	const offset = $derived(Number(wanted.offset) || 0);
	type Shelf = { items: Gear[]; total: number };
	const gear = createQuery(() => ({
		queryKey: ['gear', { ...wanted }],
		queryFn: async (): Promise<Shelf> => {
			const query = { ...wanted, offset, limit: PAGE } as Query;
			const answer = api.GET('/api/gear', { params: { query } });
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
		<input class="input input-sm w-56" bind:value={wanted.q} type="search" oninput={first} />
	</label>
	<label class="flex flex-col text-sm"
		>Kind
		<select class="select select-sm w-40" bind:value={wanted.kind} onchange={first}>
			<option value="">all kinds</option>
			{#each meta.data?.choices.gear_kinds ?? [] as one (one)}<option>{one}</option>{/each}
		</select>
	</label>
	<label class="flex flex-col text-sm"
		>Order
		<select class="select select-sm w-32" bind:value={wanted.sort} onchange={first}>
			{#each meta.data?.choices.shelf_orders ?? [] as one (one.key)}<option value={one.key}>{one.name}</option>{/each}
		</select>
	</label>
	<label class="flex flex-col text-sm"
		>Price
		<select class="select select-sm w-28" bind:value={wanted.price_kind} onchange={first}>
			<option value="">any</option>
			{#each meta.data?.choices.price_kinds ?? [] as one (one.key)}<option value={one.key}>{one.name}</option>{/each}
		</select>
	</label>
	<label class="flex flex-col text-sm"
		>At most
		<input
			class="input input-sm w-28 figures"
			value={wanted.at_most}
			placeholder="150 EUR"
			onchange={(event) => {
				wanted.at_most = event.currentTarget.value.trim();
				first();
			}} />
	</label>
	<label class="flex flex-col text-sm"
		>Measured
		<select class="select select-sm w-24" bind:value={wanted.measured} onchange={first}>
			<option value="">or not</option>
			<option value="yes">yes</option>
			<option value="no">not yet</option>
		</select>
	</label>
	<label class="flex flex-col text-sm"
		>Specification
		<select
			class="select select-sm w-36"
			bind:value={wanted.spec}
			onchange={() => {
				wanted.spec_from = wanted.spec_to = '';
				first();
			}}>
			<option value="">any</option>
			<option value="structure">structure</option>
			{#each fields as one (one.key)}<option value={one.key}>{one.name}</option>{/each}
		</select>
	</label>
	{#if wanted.spec}
		{#each ends as end (end)}
			<label class="flex flex-col text-sm"
				>{!numbers ? (field?.type === 'flag' ? 'yes or no' : 'holds') : end === 'spec_from' ? 'from' : 'to'}
				{field?.unit ?? ''}
				<input
					class="input input-sm w-24 {numbers ? 'figures' : ''}"
					value={wanted[end]}
					onchange={(event) => {
						wanted[end] = event.currentTarget.value.trim();
						first();
					}} />
			</label>
		{/each}
	{/if}
	{#if filtered}<button class="btn btn-sm btn-ghost" onclick={clear}>Show all</button>{/if}
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
{:else if shown.length === 0 && !filtered}
	<Empty title="The shelf is empty">
		<p>
			Put the gear here that you compare or own: its knobs, so that settings can be written down, and its prices, so
			that a ranking knows them. A flight also works without: a contender can be just a name and a price.
		</p>
	</Empty>
{:else if shown.length === 0}
	<p class="quiet" role="status">Nothing on the shelf fits that search.</p>
{:else}
	{#if total > PAGE}
		<p class="flex gap-3 items-center mb-2" role="status">
			<span class="figures">{offset + 1}–{Math.min(offset + PAGE, total)} of {total}</span>
			<button
				class="btn btn-xs"
				disabled={offset === 0}
				onclick={() => (wanted.offset = String(Math.max(0, offset - PAGE)))}>Earlier</button>
			<button
				class="btn btn-xs"
				disabled={offset + PAGE >= total}
				onclick={() => (wanted.offset = String(offset + PAGE))}>Later</button>
		</p>
	{/if}
	<Table>
		<thead>
			<tr
				><th>Name</th><th><span class="sr-only">Fingerprint</span></th><th>Kind</th><th class="max-md:hidden">Knobs</th
				><th class="text-right">New</th><th class="text-right">Used</th><th class="text-right">Own offer</th></tr>
		</thead>
		<tbody>
			{#each shown as item (item.id)}
				<tr class="hover:bg-base-200">
					<td>
						<a class="font-semibold hover:underline underline-offset-2" href="/gear/{item.id}">{item.name}</a>
						<span class="block text-sm quiet max-md:line-clamp-2">{item.about}</span>
					</td>
					<td><Fingerprint gear={item.id} /></td>
					<td>{item.kind}</td>
					<td class="text-sm max-md:hidden">{item.controls.map((control) => control.name).join(', ')}</td>
					{#each ['new', 'used', 'offer'] as of (of)}
						{@const price = item.prices.find((one) => one.kind === of)}
						<td class="text-right whitespace-nowrap">
							{#if price}
								<span class="figures">{price.text}</span>
								<span class="block text-sm quiet">{price.on_date || 'no day known'}</span>
							{/if}
						</td>
					{/each}
				</tr>
			{/each}
		</tbody>
	</Table>
{/if}
