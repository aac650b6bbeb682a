<script lang="ts">
	/** What is left after an equaliser: every contender brought to the tone of one. */
	import { createQuery } from '@tanstack/svelte-query';
	import { api, got } from '$lib/api/client';
	import Play from '@lucide/svelte/icons/play';
	import { arrows } from '$lib/arrows';
	import { player } from '$lib/audio/player.svelte';
	import { useFlight } from '../flight.svelte';

	const flight = useFlight();
	let open = $state(false);
	let testId = $state(0);
	let referenceId = $state(0);
	const tests = $derived(flight.compared);
	const test = $derived(tests.find((one) => one.id === testId) ?? tests[0]);
	const rows = $derived(flight.heardIn(test?.id));
	const reference = $derived(
		rows.find((one) => one.id === referenceId) ?? rows.find((one) => !one.is_bypass) ?? rows[0]
	);
	const found = createQuery(() => ({
		queryKey: ['one tone', flight.id, test?.id, reference?.id],
		enabled: open && !!test && !!reference,
		queryFn: () =>
			got(
				api.GET('/api/flights/{flight_id}/together/{test_id}/tone', {
					params: { path: { flight_id: flight.id, test_id: test!.id }, query: { reference: reference!.id } }
				})
			)
	}));
</script>

{#if test && reference}
	<details class="mt-6 no-print" bind:open>
		<summary class="cursor-pointer w-fit text-lg font-semibold">What is left after an equaliser</summary>
		<div class="flex flex-wrap gap-3 my-3" {@attach arrows}>
			<label class="flex flex-col text-sm"
				>In the test
				<select class="select w-56" value={test.id} onchange={(event) => (testId = Number(event.currentTarget.value))}>
					{#each tests as one (one.id)}<option value={one.id}>{one.name}</option>{/each}
				</select></label>
			<label class="flex flex-col text-sm"
				>Brought to the tone of
				<select
					class="select w-56"
					value={reference.id}
					onchange={(event) => (referenceId = Number(event.currentTarget.value))}>
					{#each rows as one (one.id)}<option value={one.id}>{one.name}</option>{/each}
				</select></label>
			<button class="btn self-end" onclick={() => player.pourToned(flight.id, test.id, reference.id)}>
				<Play size={16} /> Hear them in this tone</button>
		</div>
		{#if found.error}
			<p class="text-error" role="alert">{found.error.message}</p>
		{:else if !found.data}
			<p class="quiet" role="status">Turning knobs…</p>
		{:else}
			<ul class="space-y-3">
				{#each found.data as one (one.contender_id)}
					<li>
						{#each one.said as said, n (n)}<p class={n ? 'quiet' : ''}>{said.words}</p>{/each}
						{#if one.moves.length}
							<a
								class="underline text-sm"
								href="/api/flights/{flight.id}/together/{test.id}/impulse.wav?contender={one.contender_id}&reference={reference.id}"
								download
								aria-label="The equaliser for {one.name} as an impulse response"
								>The equaliser for {one.name} as an impulse response</a>
						{/if}
					</li>
				{/each}
			</ul>
		{/if}
	</details>
{/if}
