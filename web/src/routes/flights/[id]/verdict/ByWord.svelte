<script lang="ts">
	/** By a word that players use: who has most of it, by what was measured. */
	import { createQuery } from '@tanstack/svelte-query';
	import { api, got, type ByWord as Scores } from '$lib/api/client';
	import { arrows } from '$lib/arrows';
	import { useFlight } from '../flight.svelte';

	const flight = useFlight();
	let open = $state(false);
	let word = $state('boxy');
	let testId = $state(0);
	const ready = $derived((flight.data?.takes ?? []).filter((take) => take.state === 'ready'));
	const tests = $derived(
		(flight.data?.tests ?? []).filter((test) => ready.filter((take) => take.test_id === test.id).length > 1)
	);
	const test = $derived(tests.find((one) => one.id === testId) ?? tests[0]);
	const known = createQuery(() => ({
		queryKey: ['words'],
		staleTime: Infinity,
		enabled: open,
		queryFn: () => got(api.GET('/api/tastings/words'))
	}));
	const found = createQuery(() => ({
		queryKey: ['by word', flight.id, test?.id, word],
		enabled: open && !!test,
		placeholderData: (before: Scores | undefined) => before,
		queryFn: () =>
			got(
				api.GET('/api/tastings/words/{word}', {
					params: { path: { word }, query: { flight: flight.id, test: test!.id } }
				})
			)
	}));
	const most = $derived(Math.max(2, ...(found.data?.contenders ?? []).map((one) => Math.abs(one.score ?? 0))));
</script>

{#if test}
	<details class="mt-3 no-print" bind:open>
		<summary class="cursor-pointer w-fit text-lg font-semibold">By a word</summary>
		<div class="flex flex-wrap gap-3 my-3" {@attach arrows}>
			<label class="flex flex-col text-sm"
				>Who is the most
				<select class="select w-44" bind:value={word}>
					{#each known.data ?? [] as one (one.key)}<option value={one.key}>{one.key}</option>{/each}
				</select></label>
			<label class="flex flex-col text-sm"
				>As played in
				<select class="select w-56" value={test.id} onchange={(event) => (testId = Number(event.currentTarget.value))}>
					{#each tests as one (one.id)}<option value={one.id}>{one.name}</option>{/each}
				</select></label>
		</div>
		{#if found.error}
			<p class="text-error" role="alert">{found.error.message}</p>
		{:else if found.data}
			<p class="text-lg" role="status">{found.data.said.words}</p>
			<p class="quiet text-sm mb-2">{found.data.word}: {found.data.about}</p>
			<ul class="grid gap-1.5 max-w-2xl" aria-label="By the word {found.data.word}">
				{#each found.data.contenders as one (one.contender_id)}
					<li class="flex gap-3 items-center">
						<span class="w-44 truncate">{one.name}</span>
						<span class="grow h-3 relative border-l rule" aria-hidden="true">
							{#if one.score != null}
								<span
									class="absolute inset-y-0 bg-secondary rounded-sm"
									style="left: {one.score < 0 ? 50 + (50 * one.score) / most : 50}%; width: {(50 *
										Math.abs(one.score)) /
										most}%"></span>
							{/if}
						</span>
						<span class="figures text-sm w-28 text-right"
							>{one.score == null
								? 'not known'
								: `${one.score > 0 ? '+' : '−'}${Math.abs(one.score).toFixed(1)} steps`}</span>
					</li>
				{/each}
			</ul>
		{/if}
	</details>
{/if}
