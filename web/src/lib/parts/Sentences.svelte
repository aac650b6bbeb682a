<script lang="ts">
	/** What differs, in sentences: one press pours the takes that show it and loops the place that shows it most. */
	import { api, got, type Sentence } from '$lib/api/client';
	import { player } from '$lib/audio/player.svelte';
	import { notices } from '$lib/notices.svelte';
	import Token from './Token.svelte';
	import { useFlight } from '../../routes/flights/[id]/flight.svelte';

	let { flightId, sentences, label }: { flightId: number; sentences: Sentence[]; label: string } = $props();
	// Raw: a proxied sentence would be no longer the one in the list.
	let busy = $state.raw<Sentence | null>(null);
	let shown = $state.raw<Sentence | null>(null);
	const flight = useFlight();
	/** How far along its strip a value stands, in per cent: from nothing, or from the least where values lie below it. */
	function along(one: Sentence, value: number): number {
		const values = one.values!.map((each) => each.value);
		const low = Math.min(0, ...values);
		const high = Math.max(0, ...values);
		return high > low ? (100 * (value - low)) / (high - low) : 0;
	}

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
		<li class="flex gap-x-3 items-baseline flex-wrap sm:flex-nowrap">
			<span class="grow {n === 0 ? 'text-xl font-semibold' : 'text-lg'}">{one.said.words}</span>
			{#if one.picture || one.values?.length}
				<button
					class="btn btn-sm btn-ghost no-print shrink-0"
					aria-expanded={shown === one}
					onclick={() => (shown = shown === one ? null : one)}
					aria-label="{shown === one ? 'Hide it' : 'Show it'}: {one.said.words}"
					>{shown === one ? 'Hide it' : 'Show it'}</button>
			{/if}
			{#if one.proof}
				<button
					class="btn btn-sm no-print shrink-0"
					disabled={busy !== null}
					onclick={() => hear(one)}
					aria-label="{busy === one ? 'Looking…' : 'Hear it'}: {one.said.words}"
					>{busy === one ? 'Looking…' : 'Hear it'}</button>
			{/if}
		</li>
		{#if shown === one}
			<li class="pb-2 max-w-3xl">
				{#if one.picture}
					{#await import('./Picture.svelte') then { default: Picture }}
						<Picture picture={one.picture as never} title={one.said.words} />
					{/await}
				{:else}
					<ul class="grid gap-1.5 border rule rounded-box p-3" aria-label="Everybody's value">
						{#each one.values ?? [] as each (each.contender_id)}
							{@const row = flight.contender(each.contender_id)}
							<li class="flex gap-2 items-center">
								{#if row}<Token letter={row.letter} colour={row.colour} />{/if}
								<span class="w-40 truncate text-sm">{row?.name}</span>
								<span class="grow h-3 relative" aria-hidden="true">
									<span
										class="absolute inset-y-0 left-0 rounded-sm {each.contender_id === one.proof?.contender_id
											? 'bg-primary'
											: 'bg-base-content/40'}"
										style="width: max(2px, {along(one, each.value)}%)"></span>
								</span>
								<span class="figures text-sm w-36 text-right"
									>{each.text}{each.band ? ` ± ${each.band.toFixed(1)}` : ''}</span>
							</li>
						{/each}
					</ul>
				{/if}
			</li>
		{/if}
	{/each}
</ol>
