<script lang="ts">
	/** Takes that are being made in the background: how many are left, and a way to stop. */
	import { api, got, queries, type Flight } from '$lib/api/client';
	import { notices } from '$lib/notices.svelte';

	let { data }: { data: Flight } = $props();

	async function stop() {
		try {
			const path = { flight_id: data.id };
			queries.setQueryData(
				['flight', data.id],
				await got(api.DELETE('/api/flights/{flight_id}/making', { params: { path } }))
			);
		} catch (error) {
			notices.fail(error);
		}
	}
</script>

{#if data.making}
	{@const { left, total } = data.making}
	<p class="mb-4 flex gap-3 items-center" role="status">
		<progress class="progress w-48" value={total - left} max={total} aria-label="Takes made"></progress>
		{total - left} of {total} takes made
		<button class="btn btn-xs" onclick={stop}>Stop</button>
	</p>
{/if}
