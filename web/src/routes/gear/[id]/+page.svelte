<script lang="ts">
	/** One item: its knobs where they start, its prices, its flights. */
	import { goto } from '$app/navigation';
	import { page } from '$app/state';
	import { createQuery } from '@tanstack/svelte-query';
	import { api, got, queries, type Gear } from '$lib/api/client';
	import { notices } from '$lib/notices.svelte';
	import { arrows } from '$lib/arrows';
	import Token from '$lib/parts/Token.svelte';
	import Fingerprint from '$lib/parts/Fingerprint.svelte';
	import Loading from '$lib/parts/Loading.svelte';
	import NameField from '$lib/parts/NameField.svelte';
	import type { GearPatch } from './item';
	import Knobs from './Knobs.svelte';
	import Near from './Near.svelte';
	import Prices from './Prices.svelte';
	import Specs from './Specs.svelte';

	const id = $derived(Number(page.params.id));
	const item = createQuery(() => ({
		queryKey: ['gear', id],
		queryFn: () => got(api.GET('/api/gear/{gear_id}', { params: { path: { gear_id: id } } }))
	}));
	const evidence = createQuery(() => ({
		queryKey: ['evidence', id],
		queryFn: () => got(api.GET('/api/gear/{gear_id}/evidence', { params: { path: { gear_id: id } } }))
	}));
	const known = createQuery(() => ({
		queryKey: ['gear', id, 'known'],
		queryFn: () => got(api.GET('/api/gear/{gear_id}/known', { params: { path: { gear_id: id } } }))
	}));
	const powers = $derived((evidence.data?.knobs ?? []).filter((knob) => knob.sentence));

	async function keep(call: Promise<Gear>) {
		try {
			const kept = await call;
			// An answer that was asked for before this change must not come after it.
			await queries.cancelQueries({ queryKey: ['gear', id], exact: true });
			queries.setQueryData(['gear', id], kept);
			void queries.invalidateQueries({ queryKey: ['gear', id] });
			return true;
		} catch (error) {
			notices.fail(error);
			return false;
		}
	}
	const change = (body: GearPatch) =>
		keep(got(api.PATCH('/api/gear/{gear_id}', { params: { path: { gear_id: id } }, body })));

	async function remove() {
		try {
			await got(api.DELETE('/api/gear/{gear_id}', { params: { path: { gear_id: id } } }));
			notices.say('Removed. Ctrl+Z brings it back.');
			await goto('/gear');
		} catch (error) {
			notices.fail(error);
		}
	}
</script>

<svelte:head><title>{item.data?.name ?? 'Gear'} · Cata</title></svelte:head>

{#if !item.data}
	<Loading error={item.error} retry={() => item.refetch()} />
{:else}
	{@const gear = item.data}
	<p class="text-sm quiet mb-1"><a class="underline" href="/gear">Gear</a> › {gear.kind}</p>
	<h1 class="mb-1 -ml-1.5">
		<NameField value={gear.name} label="Name" strong onchange={(name) => change({ name })} />
	</h1>
	<textarea
		class="cell-input max-w-3xl -ml-1.5"
		rows="2"
		aria-label="Description"
		placeholder="What is it, in a sentence or two?"
		value={gear.about}
		onchange={(event) => change({ about: event.currentTarget.value })}></textarea>
	<input
		class="cell-input max-w-3xl -ml-1.5 text-sm"
		aria-label="Structure"
		placeholder="How is it built? (soft clip in the feedback, lows cut before it)"
		value={gear.structure}
		onchange={(event) => change({ structure: event.currentTarget.value })} />

	<p class="mt-3 flex flex-wrap gap-3 items-center">
		<a class="btn btn-sm btn-primary" href="/gear/{id}/measure">Measure it</a>
		<Fingerprint gear={id} />
		<span class="quiet text-sm">headroom, gain character, what the knobs do: from one recording of a test file</span>
	</p>
	{#if powers.length}
		<p class="text-sm mt-2 max-w-3xl">
			{#each powers as knob (knob.key)}<span class="block">{knob.sentence}</span>{/each}
		</p>
	{/if}

	<div class="grid gap-8 md:grid-cols-2 mt-4">
		<Knobs {gear} {keep} {change} />
		<Prices {gear} {keep} />
		<Specs {gear} {change} />
		<section aria-labelledby="in-flights" {@attach arrows}>
			<h2 id="in-flights" class="mb-2">In flights</h2>
			{#each known.data ?? [] as one (`${one.flight_id} ${one.letter}`)}
				<div class="mb-3">
					<p class="flex gap-2 items-center">
						<Token letter={one.letter} colour={one.colour} size="s" />
						<a class="underline" href="/flights/{one.flight_id}/readings">{one.flight}</a>
						<span class="quiet text-sm"
							>{one.takes} of {one.cells} takes{one.to_redo ? `, ${one.to_redo} to redo` : ''}</span>
					</p>
					{#if one.setting}<p class="text-sm quiet">{one.setting}</p>{/if}
					<ul class="text-sm">
						{#each one.said ?? [] as said, n (n)}<li>{said.words}</li>{/each}
					</ul>
				</div>
			{:else}<p class="quiet">It has not been compared yet.</p>{/each}
		</section>
	</div>
	<Near gear={id} />
	<p class="mt-8"><button class="btn btn-sm btn-ghost" onclick={remove}>Take it off the shelf</button></p>
{/if}
