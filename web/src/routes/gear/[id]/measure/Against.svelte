<script lang="ts">
	/** This item against another that was measured: differences in words, the most audible and surest first. */
	import { createQuery } from '@tanstack/svelte-query';
	import { api, got } from '$lib/api/client';
	import Fingerprint from '$lib/parts/Fingerprint.svelte';
	import Table from '$lib/parts/Table.svelte';

	let { gear, name, kind }: { gear: number; name: string; kind: string } = $props();
	let other = $state(0);
	const prints = createQuery(() => ({
		queryKey: ['fingerprints'],
		queryFn: () => got(api.GET('/api/fingerprints'))
	}));
	const names = createQuery(() => ({ queryKey: ['gear-names'], queryFn: () => got(api.GET('/api/gear-names')) }));
	const measured = $derived(
		(names.data ?? []).filter((one) => one.id !== gear && prints.data?.some((print) => print.gear_id === one.id))
	);
	const alike = $derived(measured.filter((one) => one.kind === kind));
	const others = $derived(measured.filter((one) => one.kind !== kind));
	const against = createQuery(() => ({
		queryKey: ['against', gear, other],
		queryFn: () =>
			got(api.GET('/api/gear/{gear_id}/against/{other_id}', { params: { path: { gear_id: gear, other_id: other } } })),
		enabled: other > 0
	}));
</script>

<section aria-labelledby="against" class="mb-6">
	<h2 id="against" class="mb-2">Against another</h2>
	{#if !measured.length}
		<p class="quiet">No other item has been measured yet.</p>
	{:else}
		<label class="text-sm flex items-center gap-2 mb-2"
			>{name} against
			<select class="select select-sm w-56" bind:value={other}>
				<option value={0}>choose an item</option>
				{#each alike as one (one.id)}<option value={one.id}>{one.name}</option>{/each}
				{#if others.length}
					<optgroup label="of another kind">
						{#each others as one (one.id)}<option value={one.id}>{one.name} ({one.kind})</option>{/each}
					</optgroup>
				{/if}
			</select>
		</label>
		{#if against.data}
			{@const found = against.data}
			<p class="text-sm quiet mb-2 flex flex-wrap gap-4 items-end">
				<span class="inline-flex gap-2 items-end"
					><Fingerprint rays={found.fingerprints[0]} />{found.first}: {found.at[0]}</span>
				<span class="inline-flex gap-2 items-end"
					><Fingerprint rays={found.fingerprints[1]} />{found.second}: {found.at[1]}</span>
			</p>
			<Table>
				<thead
					><tr
						><th>Difference</th><th>Reading</th><th class="text-right">{found.first}</th><th class="text-right"
							>{found.second}</th
						></tr
					></thead>
				<tbody>
					{#each found.differences as one (one.key)}
						<tr class={one.audible && one.sure ? '' : 'quiet'}>
							<td>{one.said.words}</td>
							<td>{one.name}</td>
							<td class="text-right figures">{one.first}</td>
							<td class="text-right figures">{one.second}</td>
						</tr>
					{/each}
				</tbody>
			</Table>
		{/if}
	{/if}
</section>
