<script lang="ts">
	/** Tastings: what was set up, how far it is, and a new one. */
	import { createQuery } from '@tanstack/svelte-query';
	import { api, got, type Tasting } from '$lib/api/client';
	import { arrows } from '$lib/arrows';
	import { notices } from '$lib/notices.svelte';
	import Loading from '$lib/parts/Loading.svelte';
	import { titleOf } from './rounds';
	import SetUp from './SetUp.svelte';

	const tastings = createQuery(() => ({ queryKey: ['tastings'], queryFn: () => got(api.GET('/api/tastings')) }));

	const state = (one: Tasting) => {
		if (one.revealed_at) return 'revealed';
		const done = one.tasters.filter((taster) => taster.done).length;
		return one.tasters.length ? `${done} of ${one.tasters.length} at the end` : 'nobody sat down yet';
	};

	async function remove(one: Tasting) {
		try {
			await got(api.DELETE('/api/tastings/{tasting_id}', { params: { path: { tasting_id: one.id } } }));
			notices.say('Removed. Ctrl+Z brings it back.');
			await tastings.refetch();
		} catch (error) {
			notices.fail(error);
		}
	}
</script>

<svelte:head><title>Tastings · Cata</title></svelte:head>

<h1 class="mb-1">Tastings</h1>
<p class="quiet mb-4 max-w-2xl">
	Without names, prices and pictures: is there a difference, which is liked more, and what is it like? Nobody sees what
	is in a glass before the reveal.
</p>
{#if !tastings.data}
	<Loading error={tastings.error} retry={() => tastings.refetch()} />
{:else}
	<SetUp />
	{#if tastings.data.length}
		<h2 class="mt-8 mb-2">Set up</h2>
		<ul class="border rule rounded-box divide-y divide-base-300" {@attach arrows}>
			{#each tastings.data as one (one.id)}
				<li class="p-3 flex flex-wrap gap-x-6 gap-y-1 items-center">
					<div class="grow basis-72 min-w-0">
						<a class="font-semibold hover:underline underline-offset-2" href="/tastings/{one.id}">{one.name}</a>
						<p class="text-sm quiet">
							{one.glasses} glasses of “{one.test}” · {one.kinds.map(titleOf).join(' ')}
						</p>
					</div>
					<span class="text-sm">{state(one)}</span>
					<button class="btn btn-ghost btn-xs" onclick={() => remove(one)} aria-label="remove {one.name}"
						>remove</button>
				</li>
			{/each}
		</ul>
	{/if}
{/if}
