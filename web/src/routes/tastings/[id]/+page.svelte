<script lang="ts">
	/** One tasting: who sits down, one trial after another, the reveal. */
	import { page } from '$app/state';
	import { createQuery } from '@tanstack/svelte-query';
	import { onMount } from 'svelte';
	import { api, got, Problem, queries, type Revealed as Told } from '$lib/api/client';
	import { useAsked } from '$lib/asked.svelte';
	import { player } from '$lib/audio/player.svelte';
	import { notices } from '$lib/notices.svelte';
	import Empty from '$lib/parts/Empty.svelte';
	import Loading from '$lib/parts/Loading.svelte';
	import { titleOf } from '../rounds';
	import Revealed from './Revealed.svelte';
	import Trial from './Trial.svelte';

	const id = $derived(Number(page.params.id));
	const asked = useAsked({ taster: '' });
	const path = $derived({ tasting_id: id });
	const tasting = createQuery(() => ({
		queryKey: ['tasting', id],
		queryFn: () => got(api.GET('/api/tastings/{tasting_id}', { params: { path } }))
	}));
	const revealed = createQuery(() => ({
		queryKey: ['tasting', id, 'revealed'],
		enabled: !!tasting.data?.revealed_at,
		queryFn: (): Promise<Told> => got(api.GET('/api/tastings/{tasting_id}/revealed', { params: { path } }))
	}));
	const data = $derived(tasting.data);
	const seated = $derived(data?.tasters.find((one) => one.id === Number(asked.taster)));
	let name = $state('');
	let busy = $state(false);
	let sure = $state(false);
	const left = $derived((data?.tasters ?? []).filter((one) => !one.done));

	// What the tray shows has names: it is put away before the first glass.
	onMount(() => player.close());

	async function act<T>(call: () => Promise<T>, then: (done: T) => void) {
		if (busy) return;
		busy = true;
		try {
			const done = await call();
			await queries.invalidateQueries({ queryKey: ['tasting', id] });
			then(done);
		} catch (error) {
			notices.fail(error);
		} finally {
			busy = false;
		}
	}

	const sit = () =>
		act(
			() => got(api.POST('/api/tastings/{tasting_id}/tasters', { params: { path }, body: { name: name.trim() } })),
			(taster) => {
				name = '';
				asked.taster = String(taster.id);
			}
		);
	const reveal = () =>
		act(
			() => got(api.POST('/api/tastings/{tasting_id}/reveal', { params: { path } })),
			() => {
				sure = false;
				void queries.invalidateQueries();
			}
		);
	const stand = () => {
		asked.taster = '';
		void tasting.refetch();
	};
</script>

<svelte:head><title>{data?.name ?? 'Tasting'} · Cata</title></svelte:head>

{#if Problem.isGone(tasting.error)}
	<Empty title="This tasting is not there">
		<p>{tasting.error?.message}</p>
		<a class="btn btn-sm" href="/tastings">All tastings</a>
	</Empty>
{:else if !data}
	<Loading error={tasting.error} retry={() => tasting.refetch()} />
{:else if data.revealed_at}
	{#if revealed.data}
		<Revealed told={revealed.data} />
	{:else}
		<Loading error={revealed.error} retry={() => revealed.refetch()} />
	{/if}
{:else if seated}
	{#key seated.id}
		<Trial tasting={id} taster={seated.id} name={seated.name} leave={stand} />
	{/key}
{:else}
	<div class="max-w-3xl">
		<h1 class="mb-1">{data.name}</h1>
		<p class="quiet mb-4">
			{data.glasses} glasses of “{data.test}”. {data.kinds.map(titleOf).join(' ')} One after another sits down; what was answered
			stays hidden until the reveal.
		</p>
		{#if data.tasters.length}
			<ul class="border rule rounded-box divide-y divide-base-300 mb-4">
				{#each data.tasters as one (one.id)}
					<li class="p-3 flex gap-4 items-center">
						<span class="grow font-semibold">{one.name}</span>
						<span class="quiet text-sm figures">{one.done ? 'at the end' : `${one.answered} of ${one.of}`}</span>
						<button
							class="btn btn-sm"
							onclick={() => (asked.taster = String(one.id))}
							aria-label="{one.done ? 'Look' : 'Go on'} as {one.name}"
							>{one.done ? 'Look' : 'Go on'} as {one.name}</button>
					</li>
				{/each}
			</ul>
		{/if}
		<form
			class="flex flex-wrap gap-2 items-end mb-8"
			onsubmit={(event) => {
				event.preventDefault();
				void sit();
			}}>
			<label class="flex flex-col text-sm"
				>Who listens
				<input class="input w-64" bind:value={name} maxlength="60" placeholder="Taster {data.tasters.length + 1}" />
			</label>
			<button class="btn btn-primary" disabled={busy}>Sit down</button>
		</form>
		{#if data.tasters.length}
			{#if sure}
				<p class="mb-2" role="alert">
					{left.length
						? `${left.map((one) => one.name).join(', ')} ${left.length > 1 ? 'are' : 'is'} not at the end. `
						: ''}After the reveal nobody can taste blind any more.
				</p>
				<button class="btn btn-primary" disabled={busy} onclick={reveal}>Reveal it now</button>
				<button class="btn btn-ghost" onclick={() => (sure = false)}>Not yet</button>
			{:else}
				<button class="btn" onclick={() => (sure = true)}>Reveal…</button>
			{/if}
		{/if}
	</div>
{/if}
