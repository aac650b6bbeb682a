<script lang="ts">
	/** A new tasting: which test of which flight, who is poured, and what is asked. */
	import { goto } from '$app/navigation';
	import { createQuery } from '@tanstack/svelte-query';
	import { api, got, queries, type Round } from '$lib/api/client';
	import { arrows } from '$lib/arrows';
	import { useAsked } from '$lib/asked.svelte';
	import { notices } from '$lib/notices.svelte';
	import { useMeta } from '$lib/meta';
	import { KINDS, type Kind } from './rounds';

	const meta = useMeta();
	const clear = $derived(meta.data?.choices.heard ?? []);
	const asked = useAsked({ flight: '', test: '' });
	const flights = createQuery(() => ({ queryKey: ['flights'], queryFn: () => got(api.GET('/api/flights')) }));
	const flightId = $derived(Number(asked.flight) || flights.data?.find((one) => one.takes > 1)?.id || 0);
	const flight = createQuery(() => ({
		queryKey: ['flight', flightId],
		enabled: flightId > 0,
		queryFn: () => got(api.GET('/api/flights/{flight_id}', { params: { path: { flight_id: flightId } } }))
	}));
	const ready = (test: number) => (flight.data?.takes ?? []).filter((t) => t.test_id === test && t.state === 'ready');
	const tests = $derived((flight.data?.tests ?? []).filter((one) => ready(one.id).length > 1));
	const test = $derived(tests.find((one) => one.id === Number(asked.test)) ?? tests[0]);
	const there = $derived(
		(flight.data?.contenders ?? []).filter((one) => test && ready(test.id).some((t) => t.contender_id === one.id))
	);
	/** Who is not poured; without a word of it all are, but for what stands for nothing. */
	let out = $state<Record<number, boolean>>({});
	const poured = $derived(there.filter((one) => !(out[one.id] ?? one.is_bypass)).slice(0, 8));
	let kinds = $state<Record<Kind, boolean>>({ identify: false, prefer: true, rate: false, notes: false });
	let heard = $state(0.6);
	let pair = $state<[number, number]>([0, 0]);
	let reference = $state(0);
	let busy = $state(false);

	const at = (ident: number) => poured.findIndex((one) => one.id === ident);
	const first = $derived(Math.max(0, at(pair[0])));
	const second = $derived(at(pair[1]) >= 0 && at(pair[1]) !== first ? at(pair[1]) : first === 0 ? 1 : 0);
	const all = $derived(poured.map((_, n) => n));
	const rounds = $derived.by((): Round[] => {
		const usual = { trials: 0, heard: 0.6, reference: null };
		const found: Round[] = [];
		if (kinds.identify) found.push({ ...usual, kind: 'identify', of: [first, second], heard });
		if (kinds.prefer) found.push({ ...usual, kind: 'prefer', of: all });
		if (kinds.rate) found.push({ ...usual, kind: 'rate', of: all, reference: Math.max(0, at(reference)) });
		if (kinds.notes) found.push({ ...usual, kind: 'notes', of: all });
		return found;
	});
	const lacking = $derived(
		!test
			? 'A test with two takes at least is needed.'
			: poured.length < 2
				? 'Pour two at least.'
				: rounds.length
					? ''
					: 'Choose what is asked.'
	);

	async function start(event: SubmitEvent) {
		event.preventDefault();
		if (busy || lacking || !test) return;
		busy = true;
		try {
			const contenders = poured.map((one) => one.id);
			const body = { flight_id: flightId, test_id: test.id, contenders, rounds, name: '', school: null };
			const made = await got(api.POST('/api/tastings', { body }));
			await queries.invalidateQueries({ queryKey: ['tastings'] });
			await goto(`/tastings/${made.id}`);
		} catch (error) {
			notices.fail(error);
		} finally {
			busy = false;
		}
	}
</script>

{#if flights.data && !flights.data.length}
	<p>
		Nothing to taste yet: a tasting pours the takes of a <a class="underline" href="/flights">flight</a>.
	</p>
{:else if flights.data}
	<form class="border rule rounded-box p-4 grid gap-4 max-w-4xl" onsubmit={start}>
		<div class="flex flex-wrap gap-4">
			<label class="flex flex-col text-sm grow basis-64"
				>From the flight
				<select
					class="select w-full"
					value={String(flightId)}
					onchange={(event) => {
						asked.flight = event.currentTarget.value;
						asked.test = '';
						out = {};
					}}>
					{#each flights.data as one (one.id)}<option value={String(one.id)}>{one.name}</option>{/each}
				</select>
			</label>
			<label class="flex flex-col text-sm grow basis-48"
				>The test
				<select
					class="select w-full"
					value={String(test?.id ?? '')}
					onchange={(event) => (asked.test = event.currentTarget.value)}>
					{#each tests as one (one.id)}<option value={String(one.id)}>{one.name}</option>{/each}
				</select>
			</label>
		</div>
		<fieldset {@attach arrows}>
			<legend class="text-sm">Poured</legend>
			<div class="flex flex-wrap gap-x-5 gap-y-1">
				{#each there as one (one.id)}
					<label class="flex items-center gap-2">
						<input
							type="checkbox"
							class="checkbox checkbox-sm"
							checked={poured.includes(one)}
							onchange={(event) => (out[one.id] = !event.currentTarget.checked)} />
						{one.name}
					</label>
				{/each}
			</div>
		</fieldset>
		<fieldset class="grid gap-2" {@attach arrows}>
			<legend class="text-sm mb-1">Asked</legend>
			{#each KINDS as one (one.kind)}
				<div class="flex flex-wrap gap-x-4 gap-y-1 items-center">
					<label class="flex items-center gap-2 font-semibold">
						<input type="checkbox" class="checkbox checkbox-sm" bind:checked={kinds[one.kind]} />
						{one.title}
					</label>
					<span class="quiet text-sm">{one.about}</span>
					{#if one.kind === 'identify' && kinds.identify && poured.length > 1}
						<span class="flex flex-wrap gap-2 items-center text-sm">
							<select
								class="select select-sm w-56"
								aria-label="The first to tell"
								value={first}
								onchange={(event) =>
									(pair = [poured[Number(event.currentTarget.value)]?.id ?? 0, poured[second]?.id ?? 0])}>
								{#each poured as it, n (it.id)}<option value={n}>{it.name}</option>{/each}
							</select>
							from
							<select
								class="select select-sm w-56"
								aria-label="The other to tell"
								value={second}
								onchange={(event) =>
									(pair = [poured[first]?.id ?? 0, poured[Number(event.currentTarget.value)]?.id ?? 0])}>
								{#each poured as it, n (it.id)}<option value={n} disabled={n === first}>{it.name}</option>{/each}
							</select>
							<select class="select select-sm w-52" aria-label="How clear a difference" bind:value={heard}>
								{#each clear as it (it.heard)}<option value={it.heard}>{it.name}</option>{/each}
							</select>
							<span class="quiet">{clear.find((it) => it.heard === heard)?.power.words ?? ''}</span>
						</span>
					{/if}
					{#if one.kind === 'rate' && kinds.rate && poured.length > 1}
						<select
							class="select select-sm w-56"
							aria-label="The reference"
							value={Math.max(0, at(reference))}
							onchange={(event) => (reference = poured[Number(event.currentTarget.value)]?.id ?? 0)}>
							{#each poured as it, n (it.id)}<option value={n}>{it.name}</option>{/each}
						</select>
					{/if}
				</div>
			{/each}
		</fieldset>
		<div class="flex flex-wrap gap-4 items-center">
			<button class="btn btn-primary" disabled={busy || !!lacking}>Set the table</button>
			{#if lacking}<span class="quiet text-sm" role="status">{lacking}</span>{/if}
		</div>
	</form>
{/if}
