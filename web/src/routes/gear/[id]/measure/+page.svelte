<script lang="ts">
	/** Measuring one item: the test file out, the recording back in, the four questions answered. */
	import { page } from '$app/state';
	import { createQuery } from '@tanstack/svelte-query';
	import { api, got, queries } from '$lib/api/client';
	import { arrows } from '$lib/arrows';
	import Fingerprint from '$lib/parts/Fingerprint.svelte';
	import TakeOut from '$lib/parts/TakeOut.svelte';
	import Loading from '$lib/parts/Loading.svelte';
	import Against from './Against.svelte';
	import FromPlaying from './FromPlaying.svelte';
	import KnobCurve from './KnobCurve.svelte';
	import Measuring from './Measuring.svelte';
	import ProbeRow from './ProbeRow.svelte';
	import Question from './Question.svelte';
	import Strings from './Strings.svelte';
	import WorkedOut from './WorkedOut.svelte';

	const id = $derived(Number(page.params.id));
	const waits = (probe: { state: string }) => probe.state === 'waiting';
	const item = createQuery(() => ({
		queryKey: ['gear', id],
		queryFn: () => got(api.GET('/api/gear/{gear_id}', { params: { path: { gear_id: id } } }))
	}));
	const evidence = createQuery(() => ({
		queryKey: ['evidence', id],
		queryFn: () => got(api.GET('/api/gear/{gear_id}/evidence', { params: { path: { gear_id: id } } })),
		refetchInterval: (query) => (query.state.data?.probes.concat(query.state.data.loops).some(waits) ? 700 : false)
	}));
	const read = $derived((evidence.data?.probes ?? []).filter((probe) => probe.state === 'read'));
	/** Who begins to measure goes on: the form does not shut when the first recording has been read. */
	const empty: Record<number, boolean> = {};
	const beganEmpty = (item: number) => (empty[item] ??= read.length === 0);
	const refresh = () => queries.invalidateQueries();
</script>

<svelte:head><title>Measure {item.data?.name ?? ''} · Cata</title></svelte:head>

{#if !item.data || !evidence.data}
	<Loading error={item.error ?? evidence.error} retry={() => evidence.refetch()} />
{:else}
	{@const gear = item.data}
	{@const found = evidence.data}
	<p class="text-sm quiet mb-1">
		<a class="underline" href="/gear">Gear</a> › <a class="underline" href="/gear/{id}">{gear.name}</a> › measured
	</p>
	<div class="flex flex-wrap items-end gap-x-6 gap-y-2 mb-4">
		<h1 class="grow">{gear.name}, measured</h1>
		{#if read.length}
			<TakeOut name="measured" csv="/api/out/gear/{id}/measured.csv" json="/api/gear/{id}/evidence" />
		{/if}
		{#if read.length}<Fingerprint rays={found.fingerprint} large />{/if}
		{#if read.length}
			<ul class="text-sm quiet">
				{#each found.fingerprint as ray (ray.key)}<li>{ray.text}</li>{/each}
			</ul>
		{/if}
	</div>

	{#if read.length}
		<section aria-label="The four questions" class="grid gap-4 lg:grid-cols-2 mb-8" {@attach arrows}>
			{#each found.questions as answer (answer.key)}
				<Question {answer} gear={id} probes={found.probes} />
			{/each}
		</section>
	{/if}

	{#if found.played || found.played_figures.length}
		<FromPlaying {found} />
	{/if}

	{#if gear.kind === 'pickup'}
		<Strings gear={id} position={String(gear.specs?.find((one) => one.key === 'position')?.value ?? '')} />
	{/if}

	<WorkedOut gear={id} kind={gear.kind} />

	{#if read.length > 1}
		<section aria-labelledby="knobs" class="mb-8">
			<h2 id="knobs" class="mb-2">What each knob can do</h2>
			<div class="grid gap-4 sm:grid-cols-2 lg:grid-cols-3" {@attach arrows}>
				{#each found.knobs as knob (knob.key)}<KnobCurve {knob} gear={id} />{/each}
			</div>
		</section>
	{/if}

	{#if beganEmpty(id)}<Measuring {gear} {found} again={read.length > 0} />
	{:else}
		<details class="mb-8 no-print">
			<summary class="cursor-pointer font-semibold text-lg w-fit mb-2">Measure another setting</summary>
			<Measuring {gear} {found} again />
		</details>
	{/if}

	{#if found.probes.length}
		<section aria-labelledby="settings" class="mb-8">
			<h2 id="settings" class="mb-2">Settings measured</h2>
			<div class="border-t rule" {@attach arrows}>
				{#each found.probes as probe (probe.id)}<ProbeRow {probe} onremoved={refresh} />{/each}
			</div>
		</section>
	{/if}

	{#if read.length}<Against gear={id} name={gear.name} kind={gear.kind} />{/if}
	<p class="text-sm quiet mt-6">
		<a class="underline" href="/measures">What each reading means and how it is computed</a>
	</p>
{/if}
