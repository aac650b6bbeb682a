<script lang="ts">
	/** What the workshop can work out of an item from its specification. */
	import { createQuery } from '@tanstack/svelte-query';
	import { api, got } from '$lib/api/client';
	import Calculator from '$lib/parts/Calculator.svelte';

	let { gear, kind }: { gear: number; kind: string } = $props();
	const found = createQuery(() => ({
		queryKey: ['workshop', kind],
		queryFn: () => got(api.GET('/api/workshop', { params: { query: { kind } } })),
		staleTime: Infinity
	}));
</script>

{#each found.data ?? [] as calculator (calculator.key)}
	<section aria-labelledby="worked-{calculator.key}" class="mb-8">
		<h2 id="worked-{calculator.key}" class="mb-1">{calculator.name}</h2>
		<Calculator {calculator} {gear} />
	</section>
{/each}
