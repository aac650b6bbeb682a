<script lang="ts">
	/** A flight: its name, its line of steps, its next thing to do, and the work that goes on for it. */
	import { page } from '$app/state';
	import { untrack, type Snippet } from 'svelte';
	import { Problem } from '$lib/api/client';
	import { player } from '$lib/audio/player.svelte';
	import { live } from '$lib/live.svelte';
	import Empty from '$lib/parts/Empty.svelte';
	import Loading from '$lib/parts/Loading.svelte';
	import NameField from '$lib/parts/NameField.svelte';
	import StepsLine from '$lib/parts/StepsLine.svelte';
	import { provideFlight } from './flight.svelte';

	let { children }: { children: Snippet } = $props();
	const flight = provideFlight(() => Number(page.params.id));
	const progress = $derived(live.progress[flight.id]);

	// Takes that were placed, read or redone meanwhile reach the tray as well.
	$effect(() => {
		if (!flight.data) return;
		const id = flight.id;
		// Of the tray nothing is tracked: a refreshed one would ask for the next refresh, and so for ever.
		untrack(() => player.tray?.of === 'flight' && player.tray.owner_id === id && void player.refresh());
	});
</script>

<svelte:head><title>{flight.data?.name ?? 'Flight'} · Cata</title></svelte:head>

{#if Problem.isGone(flight.query.error)}
	<Empty title="This flight is not there">
		<p>{flight.query.error?.message}</p>
		<p>If it was removed in another window, Ctrl+Z there brings it back.</p>
		<a class="btn btn-sm" href="/flights">All flights</a>
	</Empty>
{:else if !flight.data}
	<Loading error={flight.query.error} retry={() => flight.query.refetch()} />
{:else}
	<div class="flex flex-wrap items-center gap-x-6 gap-y-1 border-b rule pb-2 mb-4 no-print">
		<h1 class="grow basis-72 -ml-1.5">
			<NameField
				value={flight.data.name}
				label="Name of the flight"
				strong
				onchange={(name) => flight.change({ name })} />
		</h1>
		<StepsLine flightId={flight.id} steps={flight.data.steps} />
	</div>
	<!-- A line of its own that is always there: what comes and goes in it must not move the page under a hand. -->
	<div class="h-7 -mt-3.5 mb-1 flex gap-3 items-center text-sm no-print" role="status">
		{#if flight.data.progress.paused}
			<span>Reading stopped at {flight.data.progress.done} of {flight.data.progress.total} takes.</span>
			<button class="btn btn-xs" onclick={() => flight.work('continue')}>Go on</button>
		{:else if flight.data.progress.done < flight.data.progress.total}
			<progress
				class="progress w-48"
				aria-label="Takes read"
				value={progress?.done ?? flight.data.progress.done}
				max={flight.data.progress.total}></progress>
			<span>Reading takes: {flight.data.progress.done} of {flight.data.progress.total}</span>
			<button class="btn btn-xs" onclick={() => flight.work('cancel')}>Cancel</button>
		{:else if flight.data.progress.auditing}
			<span class="quiet">Comparing the takes…</span>
		{/if}
	</div>
	{@render children()}
{/if}
