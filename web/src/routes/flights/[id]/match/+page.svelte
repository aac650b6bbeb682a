<script lang="ts">
	/** Match: can we trust it? Findings worst first, each with its evidence and what to do. */
	import { openWhen } from '$lib/open-when';
	import { createQuery } from '@tanstack/svelte-query';
	import { api, got, queries, type Finding } from '$lib/api/client';
	import { tick } from 'svelte';
	import { arrows } from '$lib/arrows';
	import { player } from '$lib/audio/player.svelte';
	import { notices } from '$lib/notices.svelte';
	import Failures from '$lib/parts/Failures.svelte';
	import Loading from '$lib/parts/Loading.svelte';
	import TakeOut from '$lib/parts/TakeOut.svelte';
	import Token from '$lib/parts/Token.svelte';
	import Table from '$lib/parts/Table.svelte';
	import { useFlight } from '../flight.svelte';

	const flight = useFlight();
	const match = createQuery(() => ({
		queryKey: ['match', flight.id],
		queryFn: () => got(api.GET('/api/flights/{flight_id}/match', { params: { path: { flight_id: flight.id } } }))
	}));
	const WORDS: Record<string, string> = { fault: 'record it again', check: 'look at it', note: 'dealt with' };
	// Two takes in each other's place are one thing to look at, told of both.
	const twice = (f: Finding) => !!f.other_id && f.take_id !== null && f.other_id < f.take_id && f.rule === 'exchanged';
	const worth = $derived(match.data?.findings.filter((f) => f.severity !== 'note' && !twice(f)) ?? []);
	const nothing = $derived(worth.length === 0);
	/** What nobody wrote down is not dealt with. */
	const unwritten = $derived(match.data?.findings.filter((f) => f.rule === 'not_written_down') ?? []);
	const notes = $derived(
		match.data?.findings.filter((f) => f.severity === 'note' && f.rule !== 'not_written_down') ?? []
	);

	/** The finding that is about to be kept, and why. */
	let keeping = $state<{ id: number; always: boolean } | null>(null);
	let reason = $state('');

	async function accept(finding: Finding, accepted: boolean, always = false) {
		const takes = [finding.take_id, finding.other_id].filter((take) => typeof take === 'number');
		try {
			for (const take of takes)
				await got(
					api.POST('/api/takes/{take_id}/accept', {
						params: { path: { take_id: take } },
						body: { rule: finding.rule, accepted, always, reason: accepted ? reason : '' }
					})
				);
			keeping = null;
			reason = '';
			await queries.invalidateQueries();
		} catch (error) {
			notices.fail(error);
		}
	}

	const ask = async (finding: Finding, always: boolean) => {
		keeping = { id: finding.id, always };
		reason = '';
		await tick();
		document.getElementById('reason')?.focus();
	};

	async function exchange(finding: Finding) {
		const other = flight.data?.takes.find((take) => take.id === finding.other_id);
		if (!other || finding.take_id === null) return;
		if (await flight.place(finding.take_id, other.contender_id, other.test_id))
			notices.say('They changed places; the flight is compared anew. Ctrl+Z takes that back.');
		await queries.invalidateQueries();
	}
	const rowOf = (take: number | null) =>
		flight.contender(flight.data?.takes.find((one) => one.id === take)?.contender_id ?? null)?.name;
	const cellOf = (finding: Finding) => {
		const take = flight.data?.takes.find((one) => one.id === finding.take_id);
		return take ? `?cell=${take.contender_id}.${take.test_id}.${take.repeat}` : '';
	};
	const nameOf = (finding: Finding) =>
		[
			flight.contender(finding.contender_id)?.name ?? (finding.take_id === null ? 'the plan' : 'an unplaced take'),
			flight.test(finding.test_id)?.name
		]
			.filter(Boolean)
			.join(', ');
</script>

{#if !match.data}
	<Loading error={match.error} retry={() => match.refetch()} />
{:else}
	<p class="only-print text-lg font-semibold">{flight.data?.name}</p>
	<div class="flex flex-wrap gap-3 items-start mb-1">
		<p class="text-xl font-semibold grow" role="status">{match.data.summary.words}</p>
		<TakeOut name="match" csv="/api/out/flights/{flight.id}/match.csv" json="/api/flights/{flight.id}/match" />
	</div>
	<p class="text-sm mb-4 max-w-4xl">
		<span class="font-semibold">Repeatability.</span>
		{match.data.repeatability.words}
	</p>
	{#each unwritten as one, i (i)}
		<p class="text-sm mb-3 max-w-4xl">
			{one.text}
			{one.advice} <a class="underline no-print" href="/flights/{flight.id}/plan#chain">Write it down</a>
		</p>
	{/each}
	<Failures failures={match.data.failures ?? []} retry={() => flight.work('retry')} />
	{#if match.data.redo.length}
		<section class="border border-error rounded-box p-3 mb-4 max-w-4xl" aria-labelledby="redo">
			<h2 id="redo" class="mb-1 flex gap-3 items-center">
				<span class="grow">Record again</span>
				{#if match.data.redo.some((one) => one.planned_id)}
					<a class="btn btn-xs no-print" href="/flights/{flight.id}/sheet?open">As an order for another day</a>
				{/if}
			</h2>
			<ul class="grid gap-1 sm:grid-cols-2">
				{#each match.data.redo as one (one.take_id)}
					{@const row = flight.contender(one.contender_id)}
					<li class="flex gap-2 items-center">
						{#if row}<Token letter={row.letter} colour={row.colour} />{/if}
						<span class="grow">{one.name}: <span class="text-error">{one.reason.toLowerCase()}</span></span>
						{#if one.planned_id}
							<a class="btn btn-xs no-print" href="/flights/{flight.id}/next?take={one.planned_id}">redo</a>
						{/if}
					</li>
				{/each}
			</ul>
		</section>
	{/if}
	<div class="grid gap-4 xl:grid-cols-2">
		{#each worth as finding, i (`${finding.id}-${finding.rule}-${i}`)}
			{@const row = flight.contender(finding.contender_id)}
			<article
				class="min-w-0 border rounded-box p-4 {finding.accepted
					? 'rule opacity-70'
					: finding.severity === 'fault'
						? 'border-error'
						: 'rule'}"
				aria-label="{finding.rule_name}: {nameOf(finding)}">
				<header class="flex items-center gap-2 flex-wrap">
					{#if row}<Token letter={row.letter} colour={row.colour} />{/if}
					<h2 class="grow">{finding.rule_name}</h2>
					<span class="text-sm font-semibold {finding.severity === 'fault' && !finding.accepted ? 'text-error' : ''}">
						{finding.always ? 'this gear does that' : finding.accepted ? 'kept as it is' : WORDS[finding.severity]}
					</span>
				</header>
				<p class="text-sm quiet">
					{nameOf(finding)}{#if finding.reason}: “{finding.reason}”{/if}
				</p>
				<p class="my-1">{finding.text}</p>
				<p class="text-sm mb-2">{finding.advice} <span class="quiet">{finding.sure}</span></p>
				{#if finding.picture}
					{#await import('$lib/parts/Picture.svelte') then { default: Picture }}
						<Picture picture={finding.picture as never} title="Evidence: {finding.text}" />
					{/await}
				{/if}
				<p class="flex flex-wrap gap-2 mt-2 no-print" {@attach arrows}>
					{#if finding.test_id !== null && finding.contender_id !== null}
						<button
							class="btn btn-sm"
							onclick={() => player.pour(flight.id, finding.test_id!, finding.contender_id!, true)}>Hear it</button>
					{/if}
					{#if finding.other_id && !finding.accepted}
						<button class="btn btn-sm btn-primary" onclick={() => exchange(finding)}
							>Exchange with {rowOf(finding.other_id)}</button>
					{/if}
					{#if finding.id}
						<a class="btn btn-sm" href="/flights/{flight.id}/takes{cellOf(finding)}">Replace the take</a>
						{#if finding.accepted}
							<button class="btn btn-sm btn-ghost" onclick={() => accept(finding, false)}>Open it again</button>
						{:else}
							<button class="btn btn-sm btn-ghost" onclick={() => ask(finding, false)}>Keep it as it is</button>
						{/if}
						{#if finding.of_gear && !finding.accepted && finding.contender_id !== null}
							<button
								class="btn btn-sm btn-ghost"
								title="Remembered for {flight.contender(finding.contender_id)?.name}, in all its takes"
								onclick={() => ask(finding, true)}>This gear does that</button>
						{/if}
					{:else}
						<a class="btn btn-sm" href="/flights/{flight.id}/plan">See the plan</a>
					{/if}
				</p>
				{#if keeping?.id === finding.id && finding.id}
					<form
						class="flex flex-wrap gap-2 mt-2 items-end no-print"
						onsubmit={(event) => {
							event.preventDefault();
							void accept(finding, true, keeping?.always);
						}}>
						<label class="flex flex-col text-sm grow"
							>Why, in one line (Choose and Verdict say it with the result)
							<input
								id="reason"
								class="input input-sm w-full"
								bind:value={reason}
								maxlength="200"
								placeholder={keeping.always ? 'the gain knob is up' : 'it is one note at the end'} />
						</label>
						<button class="btn btn-sm btn-primary">Keep it</button>
						<button class="btn btn-sm btn-ghost" type="button" onclick={() => (keeping = null)}>Cancel</button>
					</form>
				{/if}
			</article>
		{/each}
	</div>
	{#if notes.length}
		<details class="mt-5" {@attach openWhen(nothing)}>
			<summary class="cursor-pointer font-semibold">{notes.length} differences that Cata has dealt with</summary>
			<ul class="mt-2 text-sm columns-1 lg:columns-2 gap-8">
				{#each notes as note, i (`${note.id}-${i}`)}
					<li class="py-0.5 break-inside-avoid">
						{flight.test(note.test_id)?.name ?? 'Plan'}: {note.text} <span class="quiet">{note.advice}</span>
					</li>
				{/each}
			</ul>
		</details>
	{/if}
	{#if match.data.alignments.length}
		<details class="mt-5">
			<summary class="cursor-pointer font-semibold">How every take lies against its reference</summary>
			<Table look="table table-sm mt-2">
				<thead
					><tr><th>Take</th><th>Start</th><th>Polarity</th><th>Tempo</th><th>Tuning</th><th>Same phrase</th></tr
					></thead>
				<tbody>
					{#each match.data.alignments as one (one.take_id)}
						{@const take = flight.data?.takes.find((t) => t.id === one.take_id)}
						<tr>
							<td>{flight.contender(take?.contender_id ?? null)?.name}, {flight.test(take?.test_id ?? null)?.name}</td>
							<td class="figures">{one.lag_text}</td>
							<td>{one.polarity}</td>
							<td class="figures">{one.tempo_text}</td>
							<td class="figures">{one.tuning_text}</td>
							<td>{one.same_phrase}</td>
						</tr>
					{/each}
				</tbody>
			</Table>
		</details>
	{/if}
{/if}
