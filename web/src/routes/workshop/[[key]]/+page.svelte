<script lang="ts">
	/** The workshop: every calculator there is, found from the API; one of them open. */
	import { page } from '$app/state';
	import { createQuery } from '@tanstack/svelte-query';
	import { api, got } from '$lib/api/client';
	import Calculator from '$lib/parts/Calculator.svelte';
	import Loading from '$lib/parts/Loading.svelte';

	const all = createQuery(() => ({
		queryKey: ['workshop'],
		queryFn: () => got(api.GET('/api/workshop')),
		staleTime: Infinity
	}));
	const open = $derived(all.data?.find((one) => one.key === page.params.key) ?? all.data?.[0]);
</script>

<svelte:head><title>{open?.name ?? 'Workshop'} · Cata</title></svelte:head>

<h1 class="mb-3">Workshop</h1>
{#if !all.data || !open}
	<Loading error={all.error} retry={() => all.refetch()} />
{:else}
	<nav class="flex flex-wrap gap-x-5 gap-y-1 mb-5 border-b rule pb-2" aria-label="Calculators">
		{#each all.data as one (one.key)}
			<a
				href="/workshop/{one.key}"
				class="py-1 {one.key === open.key ? 'font-semibold underline underline-offset-8 decoration-2' : 'quiet'}"
				aria-current={one.key === open.key ? 'page' : undefined}>{one.name}</a>
		{/each}
	</nav>
	<section aria-labelledby="calculator">
		<h2 id="calculator" class="mb-1">{open.name}</h2>
		{#key open.key}<Calculator calculator={open} />{/key}
	</section>
{/if}
