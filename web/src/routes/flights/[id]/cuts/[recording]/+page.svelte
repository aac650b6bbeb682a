<script lang="ts">
	/** The cuts of a long recording: where each take lies, how sure that is; dragged, typed, then made into takes. */
	import { page } from '$app/state';
	import { createQuery } from '@tanstack/svelte-query';
	import { api, got, queries } from '$lib/api/client';
	import type { Piece, Recording } from '$lib/api/plan';
	import { Draft } from '$lib/draft.svelte';
	import { notices } from '$lib/notices.svelte';
	import Loading from '$lib/parts/Loading.svelte';
	import Table from '$lib/parts/Table.svelte';
	import { useFlight } from '../../flight.svelte';
	import { PlanState } from '../../plan/plan.svelte';
	import Making from '../../takes/Making.svelte';
	import Wave from './Wave.svelte';

	const flight = useFlight();
	const plan = new PlanState(() => flight.id);
	const id = $derived(Number(page.params.recording));
	const recording = createQuery(() => ({
		queryKey: ['recording', id],
		queryFn: () => got(api.GET('/api/recordings/{recording_id}', { params: { path: { recording_id: id } } }))
	}));
	let near = $state<number | null>(null);
	const draft = new Draft<Recording>(() => recording.refetch());
	const data = $derived(draft.held?.id === id ? draft.held : recording.data);
	const making = $derived(!!flight.data?.making);
	const open = $derived(data?.pieces.filter((one) => one.take_id === null && one.planned_id !== null).length ?? 0);

	function change(pieces: Piece[]) {
		const body = { pieces: pieces.map((one) => ({ ...one, flag: one.flag ?? '', label: '' })) };
		const path = { recording_id: id };
		return draft.keep({ ...data!, pieces }, () =>
			got(api.PUT('/api/recordings/{recording_id}/pieces', { params: { path }, body }))
		);
	}

	const replace = (index: number, piece: Partial<Piece>) =>
		change(data!.pieces.map((one, i) => (i === index ? { ...one, ...piece } : one)));

	function seconds(text: string): number | null {
		const parts = text.trim().replace(',', '.').split(':').map(Number);
		if (!parts.length || parts.some((part) => !Number.isFinite(part))) return null;
		return parts.reduce((sum, part) => sum * 60 + part, 0);
	}
	const clock = (s: number) => `${Math.floor(s / 60)}:${(s % 60).toFixed(3).padStart(6, '0')}`;

	function add() {
		const last = data!.pieces.at(-1);
		const start = last ? Math.min(last.end_s + 1, data!.duration_s - 1) : 0;
		const take = Math.max(0, ...data!.pieces.map((one) => one.take)) + 1;
		const end_s = Math.min(data!.duration_s, start + 10);
		void change([
			...data!.pieces,
			{ take, start_s: start, end_s, confidence: 1, flag: '', planned_id: null, label: '', take_id: null }
		]);
	}

	async function make() {
		// What was typed last counts as well.
		await draft.settled();
		try {
			await got(api.POST('/api/recordings/{recording_id}/takes', { params: { path: { recording_id: id } } }));
		} catch (error) {
			notices.fail(error);
		}
		await queries.invalidateQueries();
	}
</script>

{#if !data}
	<Loading error={recording.error} retry={() => recording.refetch()} />
{:else}
	<div class="flex flex-wrap gap-3 items-center mb-2">
		<h2 class="grow truncate">{data.filename}</h2>
		<button class="btn btn-sm btn-primary" disabled={making || open === 0} onclick={make}
			>{making ? 'Making takes…' : open ? `Make ${open} takes` : 'All takes made'}</button>
		<button class="btn btn-sm" onclick={add}>Add a cut</button>
		<a class="btn btn-sm btn-ghost" href="/flights/{flight.id}/takes">Back to the takes</a>
	</div>
	{#if flight.data}<Making data={flight.data} />{/if}
	<p class="mb-2" role="status">
		{#if data.state === 'looking'}Looking for the takes in it…
		{:else if data.state !== 'found'}<span class="text-error">{data.refusal}</span>
			<button class="btn btn-xs" onclick={() => flight.work('retry')}>Try again</button>
		{:else}
			{data.pieces.length} takes found{data.by_slates ? ` by ${data.slates} slates` : ' by their likeness'},
			{data.pieces.filter((one) => one.flag).length} to look at, {data.made} made.
			{#if data.missing.length}<span class="text-error">Not in this recording: {data.missing.join('; ')}.</span>{/if}
		{/if}
	</p>
	<Wave {data} {near} onchange={replace} onnear={(index) => (near = index)} />
	<Table label="Cuts" look="table table-sm w-auto" outside="mt-4">
		<thead>
			<tr><th>Take</th><th>Goes to</th><th>From</th><th>To</th><th>Length</th><th>Sure</th><th></th></tr>
		</thead>
		<tbody>
			{#each data.pieces as piece, i (`${piece.take}-${i}`)}
				<tr class={near === i ? 'bg-base-200' : ''} onfocusin={() => (near = i)}>
					<td class="figures">{piece.take}</td>
					<td>
						<select
							class="select select-xs w-96"
							aria-label="Where take {piece.take} goes"
							value={String(piece.planned_id ?? '')}
							onchange={(event) => replace(i, { planned_id: Number(event.currentTarget.value) || null })}>
							<option value="">nowhere: leave it out</option>
							{#each plan.order?.steps ?? [] as step (step.planned_id)}
								<option value={String(step.planned_id)}
									>{step.number}: {step.contender}, {step.test}{step.anchor ? ` (anchor ${step.anchor})` : ''}</option>
							{/each}
						</select>
					</td>
					<td>
						<input
							class="cell-input figures w-28"
							aria-label="Start of take {piece.take}"
							value={clock(piece.start_s)}
							onchange={(event) => {
								const start_s = seconds(event.currentTarget.value);
								if (start_s !== null) void replace(i, { start_s });
							}} />
					</td>
					<td>
						<input
							class="cell-input figures w-28"
							aria-label="End of take {piece.take}"
							value={clock(piece.end_s)}
							onchange={(event) => {
								const end_s = seconds(event.currentTarget.value);
								if (end_s !== null) void replace(i, { end_s });
							}} />
					</td>
					<td class="figures">{(piece.end_s - piece.start_s).toFixed(1)} s</td>
					<td>
						<span class={piece.flag ? 'text-error' : ''}
							>{piece.flag || (piece.confidence >= 0.8 ? 'sure' : 'fairly sure')}</span>
					</td>
					<td>
						{#if piece.take_id !== null}<span class="quiet text-sm">made</span>{/if}
						<button
							class="btn btn-ghost btn-xs"
							aria-label="Remove the cut of take {piece.take}"
							onclick={() => change(data.pieces.filter((_, n) => n !== i))}>remove</button>
					</td>
				</tr>
			{/each}
		</tbody>
	</Table>
{/if}
