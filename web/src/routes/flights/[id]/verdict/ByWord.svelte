<script lang="ts">
	/** By a word that players use: who has most of it, by what was measured; and what people here mean by it. */
	import { createQuery } from '@tanstack/svelte-query';
	import ThumbsDown from '@lucide/svelte/icons/thumbs-down';
	import ThumbsUp from '@lucide/svelte/icons/thumbs-up';
	import { api, got, queries, type ByWord as Scores } from '$lib/api/client';
	import { arrows } from '$lib/arrows';
	import { player } from '$lib/audio/player.svelte';
	import { notices } from '$lib/notices.svelte';
	import { useFlight } from '../flight.svelte';

	const AS_USUAL = '';
	const EVERYBODY = 'everybody';
	const flight = useFlight();
	let open = $state(false);
	let word = $state('boxy');
	let testId = $state(0);
	/** Whose use of the word; undefined: everybody's, as soon as anybody said something of takes by it. */
	let ears = $state<string>();
	let who = $state('');
	const tests = $derived(flight.compared);
	const test = $derived(tests.find((one) => one.id === testId) ?? tests[0]);
	const known = createQuery(() => ({
		queryKey: ['words'],
		enabled: open,
		queryFn: () => got(api.GET('/api/words'))
	}));
	const found = createQuery(() => ({
		queryKey: ['words', flight.id, test?.id, word, ears],
		enabled: open && !!test,
		placeholderData: (before: Scores | undefined) => before,
		queryFn: () =>
			got(
				api.GET('/api/words/{word}', {
					params: { path: { word }, query: { flight: flight.id, test: test!.id, ears } }
				})
			)
	}));
	const data = $derived(found.data);
	const most = $derived(Math.max(2, ...(data?.contenders ?? []).map((one) => Math.abs(one.score ?? 0))));
	const nameOf = (one: string) =>
		one === AS_USUAL ? 'as it usually stands' : one === EVERYBODY ? 'as it is used here' : `as ${one} uses it`;

	async function point(take_id: number, said: boolean | null) {
		try {
			const body = { take_id, said, who: who.trim() };
			await got(api.PUT('/api/words/{word}/said', { params: { path: { word } }, body }));
			ears = who.trim() || undefined;
			await queries.invalidateQueries({ queryKey: ['words'] });
		} catch (error) {
			notices.fail(error);
		}
	}
</script>

{#if test}
	<details class="mt-3 no-print" bind:open>
		<summary class="cursor-pointer w-fit text-lg font-semibold">By a word</summary>
		<div class="flex flex-wrap gap-3 my-3" {@attach arrows}>
			<label class="flex flex-col text-sm"
				>Who is the most
				<select
					class="select w-44"
					value={word}
					onchange={(event) => {
						word = event.currentTarget.value;
						ears = undefined;
					}}>
					{#each known.data ?? [] as one (one.key)}<option value={one.key}
							>{one.key}{one.takes ? ` · ${one.takes}` : ''}</option
						>{/each}
				</select></label>
			<label class="flex flex-col text-sm"
				>As played in
				<select class="select w-56" value={test.id} onchange={(event) => (testId = Number(event.currentTarget.value))}>
					{#each tests as one (one.id)}<option value={one.id}>{one.name}</option>{/each}
				</select></label>
			{#if data?.all_ears?.length}
				<label class="flex flex-col text-sm"
					>The word
					<select class="select w-52" value={data.ears} onchange={(event) => (ears = event.currentTarget.value)}>
						{#each [AS_USUAL, ...data.all_ears] as one (one)}<option value={one}>{nameOf(one)}</option>{/each}
					</select></label>
			{/if}
		</div>
		{#if found.error}
			<p class="text-error" role="alert">{found.error.message}</p>
		{:else if data}
			<p class="text-lg" role="status">{data.said.words}</p>
			<p class="quiet text-sm mb-2">
				{data.word}: {data.learned ? data.learned.said.words : data.about}
			</p>
			<ul class="grid gap-1.5 max-w-3xl" aria-label="By the word {data.word}" {@attach arrows}>
				{#each data.contenders as one (one.contender_id)}
					{@const sounds = player.pours('flight', flight.id, test.id) && player.hears(one.contender_id)}
					<li class="flex gap-2 sm:gap-3 items-center">
						<button
							class="grow sm:grow-0 sm:w-44 truncate text-left hover:underline {sounds
								? 'font-semibold text-primary'
								: ''}"
							onclick={() => player.pour(flight.id, test.id, one.contender_id, true)}
							><span class="sr-only">Hear</span> {one.name}</button>
						<span class="hidden sm:block grow h-3 relative" aria-hidden="true">
							<span class="absolute -inset-y-1 left-1/2 border-l rule"></span>
							{#if one.score != null}
								<span
									class="absolute inset-y-0 bg-secondary rounded-sm"
									style="left: {one.score < 0 ? 50 + (50 * one.score) / most : 50}%; width: {(50 *
										Math.abs(one.score)) /
										most}%"></span>
							{/if}
						</span>
						<span class="figures text-sm w-20 sm:w-24 text-right"
							>{one.score == null
								? 'not known'
								: `${one.score > 0 ? '+' : '−'}${Math.abs(one.score).toFixed(1)} steps`}</span>
						<button
							class="btn btn-sm btn-square {one.pointed === 'yes' ? 'btn-primary' : 'btn-ghost'}"
							aria-pressed={one.pointed === 'yes'}
							aria-label="{one.name} is {data.word}"
							title="It is {data.word}"
							onclick={() => point(one.take_id, one.pointed === 'yes' ? null : true)}><ThumbsUp size={16} /></button>
						<button
							class="btn btn-sm btn-square {one.pointed === 'no' ? 'btn-primary' : 'btn-ghost'}"
							aria-pressed={one.pointed === 'no'}
							aria-label="{one.name} is not {data.word}"
							title="It is not {data.word}"
							onclick={() => point(one.take_id, one.pointed === 'no' ? null : false)}><ThumbsDown size={16} /></button>
					</li>
				{/each}
			</ul>
			<p class="quiet text-sm mt-2 flex flex-wrap gap-2 items-center">
				People disagree on words. Say of takes that they are {data.word} or not, and Cata learns it
				<label class="flex gap-2 items-center"
					>as used by
					<input class="input input-sm w-40" bind:value={who} maxlength="60" placeholder="everybody here" /></label>
			</p>
		{/if}
	</details>
{/if}
