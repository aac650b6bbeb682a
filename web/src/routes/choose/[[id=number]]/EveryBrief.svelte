<script lang="ts">
	/** A shop's customers: the first of a kind for every brief. */
	import { createQuery } from '@tanstack/svelte-query';
	import { api, got, type GearKind } from '$lib/api/client';
	import { arrows } from '$lib/arrows';

	let { kind }: { kind: string } = $props();
	const every = createQuery(() => ({
		queryKey: ['choice', 'every', kind],
		queryFn: () => got(api.GET('/api/choice/briefs', { params: { query: { kind: kind as GearKind } } }))
	}));
</script>

{#if (every.data?.length ?? 0) > 1}
	<section aria-labelledby="every" class="mt-6">
		<h2 id="every" class="mb-1">For every brief</h2>
		<ul class="divide-y divide-base-300 text-sm" {@attach arrows}>
			{#each every.data ?? [] as one (one.brief_id)}
				<li class="py-1.5 grid sm:grid-cols-[12rem_1fr_auto] gap-x-4">
					<a class="hover:underline font-semibold" href="/choose/{one.brief_id}?kind={kind}">{one.brief_name}</a>
					<span>{one.sentence} <span class="quiet">{one.certainty}</span></span>
					<span class="figures text-right">{one.first?.price_text ?? ''}</span>
				</li>
			{/each}
		</ul>
	</section>
{/if}
