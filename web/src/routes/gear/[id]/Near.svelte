<script lang="ts">
	/** What sounds nearest to an item, what differs, and whether a tone knob would close it. */
	import { createQuery } from '@tanstack/svelte-query';
	import { api, got } from '$lib/api/client';
	import { arrows } from '$lib/arrows';

	let { gear }: { gear: number } = $props();
	const near = createQuery(() => ({
		queryKey: ['choice', 'near', gear],
		queryFn: () => got(api.GET('/api/gear/{gear_id}/substitutes', { params: { path: { gear_id: gear } } }))
	}));
	const found = $derived(near.data?.found ?? []);
</script>

{#if found.length}
	<section aria-labelledby="near" class="mt-6">
		<h2 id="near" class="mb-1">Sounds nearest to it</h2>
		<p class="text-sm quiet mb-1">
			From all flights; how far in steps that are just noticed, over tone, drive, dynamics and decay.
		</p>
		<ul class="divide-y divide-base-300 text-sm" {@attach arrows}>
			{#each found as one (one.gear_id)}
				<li class="py-1.5 grid sm:grid-cols-[12rem_5rem_1fr_auto] gap-x-4">
					<a class="font-semibold hover:underline" href="/gear/{one.gear_id}">{one.name}</a>
					<span class="figures">{one.distance.toFixed(1)} steps</span>
					<span
						>{one.differs.length ? `${one.differs.map((each) => each.words).join('; ')}. ` : ''}<span class="quiet"
							>{one.said.words.charAt(0).toUpperCase() + one.said.words.slice(1)}.</span
						></span>
					<span class="figures text-right">{one.price_text || 'no price known'}</span>
				</li>
			{/each}
		</ul>
	</section>
{/if}
