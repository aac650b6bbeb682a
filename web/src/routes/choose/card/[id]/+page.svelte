<script lang="ts">
	/** A decision card: the choice on one page, as it was made, and what would be said otherwise today. */
	import { goto } from '$app/navigation';
	import { page } from '$app/state';
	import { createQuery } from '@tanstack/svelte-query';
	import { api, got, queries } from '$lib/api/client';
	import { arrows } from '$lib/arrows';
	import { notices } from '$lib/notices.svelte';
	import Loading from '$lib/parts/Loading.svelte';
	import NameField from '$lib/parts/NameField.svelte';
	import TakeOut from '$lib/parts/TakeOut.svelte';

	const id = $derived(Number(page.params.id));
	const path = $derived({ card_id: id });
	const card = createQuery(() => ({
		queryKey: ['card', id],
		queryFn: () => got(api.GET('/api/cards/{card_id}', { params: { path } }))
	}));
	const today = createQuery(() => ({
		queryKey: ['choice', 'card', id],
		queryFn: () => got(api.GET('/api/cards/{card_id}/changes', { params: { path } }))
	}));
	const otherwise = $derived(today.data ? [...(today.data.gone ? [today.data.gone] : []), ...today.data.changes] : []);

	async function rename(name: string) {
		try {
			await got(api.PATCH('/api/cards/{card_id}', { params: { path }, body: { name } }));
		} catch (error) {
			notices.fail(error);
		}
		await queries.invalidateQueries();
	}

	async function remove() {
		try {
			await got(api.DELETE('/api/cards/{card_id}', { params: { path } }));
			notices.say('Removed. Ctrl+Z brings it back.');
			await goto('/');
		} catch (error) {
			notices.fail(error);
		}
	}
</script>

<svelte:head>
	<title>{card.data?.name ?? 'Card'} · Cata</title>
	<link rel="stylesheet" href="/api/cards/style.css" />
</svelte:head>

{#if !card.data}
	<Loading error={card.error} retry={() => card.refetch()} />
{:else}
	<div class="flex flex-wrap gap-2 items-center mb-3 no-print" {@attach arrows}>
		<h1 class="grow -ml-1.5 basis-96">
			<NameField value={card.data.name} label="Name of the card" strong onchange={rename} />
		</h1>
		<TakeOut name="card" json="/api/cards/{id}" bundle="card={id}" />
		<a class="btn btn-sm" href="/api/cards/{id}/file" download="card-{id}.html">File</a>
		<button class="btn btn-sm btn-ghost" onclick={remove}>Remove this card</button>
	</div>
	<div class="max-w-3xl">
		<section class="border-l-4 border-secondary pl-3 mb-5 no-print" aria-label="Today">
			{#if !today.data}
				<p class="quiet">{today.error ? 'What is known today could not be asked for.' : 'Holding it against today…'}</p>
			{:else if otherwise.length}
				<h2>What today would change</h2>
				<ul>
					{#each otherwise as one (one.words)}<li>{one.words.charAt(0).toUpperCase() + one.words.slice(1)}</li>{/each}
				</ul>
			{:else}
				<p>Made on {card.data.card.made_on}; with what is known today it would say the same.</p>
			{/if}
		</section>
		<div class="named">
			<!-- eslint-disable-next-line svelte/no-at-html-tags -- made by the server, which escapes every text in it -->
			{@html card.data.article}
		</div>
	</div>
{/if}
