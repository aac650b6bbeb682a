<script lang="ts">
	/** The long recordings of a flight, and how many of their takes are made. */
	import { createQuery } from '@tanstack/svelte-query';
	import { api, got } from '$lib/api/client';

	let { flight }: { flight: number } = $props();
	const recordings = createQuery(() => ({
		queryKey: ['recordings', flight],
		queryFn: () => got(api.GET('/api/flights/{flight_id}/recordings', { params: { path: { flight_id: flight } } }))
	}));
</script>

{#if recordings.data?.length}
	<ul class="mb-3 text-sm no-print" aria-label="Long recordings">
		{#each recordings.data as one (one.id)}
			<li>
				<a class="underline" href="/flights/{flight}/cuts/{one.id}">{one.filename}</a>
				<span class="quiet"
					>{one.state === 'found'
						? `${one.made} of ${one.pieces.length} made`
						: one.state === 'looking'
							? 'looking for takes…'
							: 'cannot be used'}</span>
			</li>
		{/each}
	</ul>
{/if}
