<script lang="ts">
	/** What differs, in sentences: one press pours the takes that show it and loops the place that shows it most. */
	import { api, got, type Sentence } from '$lib/api/client';
	import { player } from '$lib/audio/player.svelte';
	import { notices } from '$lib/notices.svelte';

	let { flightId, sentences, label }: { flightId: number; sentences: Sentence[]; label: string } = $props();
	let busy = $state<Sentence | null>(null);

	async function hear(one: Sentence) {
		const proof = one.proof;
		if (!proof || busy) return;
		busy = one;
		try {
			const path = { flight_id: flightId };
			const place = await got(api.POST('/api/flights/{flight_id}/place', { params: { path }, body: proof }));
			await player.prove(flightId, proof.test_id, proof.contender_id, place.start_s, place.end_s);
		} catch (error) {
			notices.fail(error);
		} finally {
			busy = null;
		}
	}
</script>

<ol class="space-y-1.5" aria-label={label}>
	{#each sentences as one, n (n)}
		<li class="flex gap-3 items-baseline">
			<span class="grow {n === 0 ? 'text-xl font-semibold' : 'text-lg'}">{one.said.words}</span>
			{#if one.proof}
				<button
					class="btn btn-sm no-print shrink-0"
					disabled={busy !== null}
					onclick={() => hear(one)}
					aria-label="{busy === one ? 'Looking…' : 'Hear it'}: {one.said.words}"
					>{busy === one ? 'Looking…' : 'Hear it'}</button>
			{/if}
		</li>
	{/each}
</ol>
