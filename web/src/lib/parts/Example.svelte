<script lang="ts">
	/** A finished flight to look at: brought in by one click, taken out again by another. */
	import { goto } from '$app/navigation';
	import { createQuery } from '@tanstack/svelte-query';
	import { api, got, queries } from '$lib/api/client';
	import { notices } from '$lib/notices.svelte';

	/** Offered where nothing is yet; elsewhere it is only taken out. */
	let { offer = false }: { offer?: boolean } = $props();
	const example = createQuery(() => ({ queryKey: ['example'], queryFn: () => got(api.GET('/api/example')) }));
	let busy = $state(false);

	async function trying(work: () => Promise<unknown>) {
		if (busy) return;
		busy = true;
		try {
			await work();
			await queries.invalidateQueries();
		} catch (error) {
			notices.fail(error);
		}
		busy = false;
	}
	const bringIn = () =>
		trying(async () => {
			const made = await got(api.POST('/api/example'));
			await goto(`/flights/${made.flight_id}/listen`);
		});
	const takeOut = () =>
		trying(async () => {
			await got(api.DELETE('/api/example'));
			notices.say('Taken out, with all it had brought. Ctrl+Z brings it back.');
			await goto('/');
		});
</script>

{#if example.data?.flight_id}
	<p class="text-sm flex flex-wrap gap-x-3 gap-y-1 items-center">
		<span class="quiet">“Which drive for the melody voice?” is here to be looked at, played by a simulated bench.</span>
		<button class="btn btn-xs" disabled={busy} onclick={takeOut}>Take it out again</button>
	</p>
{:else if offer && example.data}
	<p>
		<button class="btn" disabled={busy} onclick={bringIn}>
			{busy ? 'Bringing it in…' : 'Bring in a finished flight to look at'}
		</button>
	</p>
	<p class="quiet text-sm">
		Four pedals and none, through one amplifier, played by a simulated bench in about twenty seconds; one click takes it
		out again.
	</p>
{/if}
