<script lang="ts">
	/** Measuring one item: the test file out, the recording back in, the four questions answered. */
	import { page } from '$app/state';
	import { createQuery } from '@tanstack/svelte-query';
	import { api, got, queries } from '$lib/api/client';
	import { notices } from '$lib/notices.svelte';
	import DropZone from '$lib/parts/DropZone.svelte';
	import Fingerprint from '$lib/parts/Fingerprint.svelte';
	import Knob from '$lib/parts/Knob.svelte';
	import Loading from '$lib/parts/Loading.svelte';
	import Against from './Against.svelte';
	import Guidance from './Guidance.svelte';
	import KnobCurve from './KnobCurve.svelte';
	import CableAndPots from './CableAndPots.svelte';
	import Loudness from './Loudness.svelte';
	import ProbeRow from './ProbeRow.svelte';
	import Question from './Question.svelte';
	import Strings from './Strings.svelte';
	import { sendRecording, sendStrumming } from './send';

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
	/** Positions that a person set, as they wrote them and as the server read them. */
	let set = $state<Record<string, { text: string; position: number }>>({});
	const written = $derived(Object.fromEntries(Object.entries(set).map(([key, one]) => [key, one.text])));
	let sending = $state<{ name: string; share: number } | null>(null);
	let benching = $state(false);
	let ownNominal = $state<number | null>(null);
	const counted = $derived(evidence.data?.probes.find((probe) => probe.nominal_dbfs !== null));
	const read = $derived((evidence.data?.probes ?? []).filter((probe) => probe.state === 'read'));
	const nominal = $derived(ownNominal ?? counted?.nominal_dbfs ?? null);
	const refresh = () => queries.invalidateQueries();

	async function send(files: File[], loop = false) {
		for (const file of files) {
			sending = { name: file.name, share: 0 };
			await turning;
			try {
				await sendRecording(
					file,
					loop ? null : id,
					written,
					nominal,
					(share) => (sending = { name: file.name, share })
				);
			} catch (error) {
				notices.fail(error);
			}
			sending = null;
			await refresh();
		}
	}

	/** The player's own level, from a dry recording of their strumming; every measurement of this item is read from it. */
	async function ownLevel(files: File[]) {
		try {
			ownNominal = files[0] ? await sendStrumming(files[0]) : null;
			for (const probe of evidence.data?.probes ?? [])
				await got(
					api.PATCH('/api/probes/{probe_id}', {
						params: { path: { probe_id: probe.id } },
						body: { nominal_dbfs: ownNominal }
					})
				);
			await refresh();
		} catch (error) {
			notices.fail(error);
		}
	}

	/** The turns under way: a recording waits for them, or it would be noted with a knob that stood elsewhere. */
	let turning: Promise<void> = Promise.resolve();
	const turn = (key: string, text: string) => (turning = turning.then(() => readPosition(key, text)));

	/** A knob as it was turned or typed: the server reads every scale. */
	async function readPosition(key: string, text: string) {
		try {
			const query = { at: text };
			const found = await got(
				api.GET('/api/gear/{gear_id}/knobs/{key}', { params: { path: { gear_id: id, key }, query } })
			);
			set = { ...set, [key]: { text: found.text, position: found.position } };
		} catch (error) {
			notices.fail(error);
			set = { ...set };
		}
	}

	async function onBench() {
		if (benching) return;
		benching = true;
		await turning;
		try {
			await got(
				api.POST('/api/gear/{gear_id}/probes/bench', {
					params: { path: { gear_id: id } },
					body: { settings: written, nominal_dbfs: nominal }
				})
			);
			await refresh();
		} catch (error) {
			notices.fail(error);
		}
		benching = false;
	}
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
		<h1>{gear.name}, measured</h1>
		{#if read.length}<Fingerprint rays={found.fingerprint} large />{/if}
		{#if read.length}
			<ul class="text-sm quiet">
				{#each found.fingerprint as ray (ray.key)}<li>{ray.text}</li>{/each}
			</ul>
		{/if}
	</div>

	{#if read.length}
		<section aria-label="The four questions" class="grid gap-4 lg:grid-cols-2 mb-8">
			{#each found.questions as answer (answer.key)}
				<Question {answer} gear={id} probes={found.probes} />
			{/each}
		</section>
	{/if}

	{#if found.played || found.played_figures.length}
		<section aria-labelledby="played" class="mb-6 max-w-3xl">
			<h2 id="played" class="mb-1">From playing alone</h2>
			<p>{found.played} <span class="quiet">A weaker grade of evidence: the test file says more.</span></p>
			<dl class="flex flex-wrap gap-x-6 gap-y-1 mt-1">
				{#each found.played_figures as one (one.name)}
					<div title="{one.about} {one.doubt}">
						<dt class="text-sm quiet">{one.name}</dt>
						<dd class="figures">{one.text}</dd>
					</div>
				{/each}
			</dl>
		</section>
	{/if}

	{#if gear.kind === 'pickup'}
		<Strings gear={id} position={String(gear.specs?.find((one) => one.key === 'position')?.value ?? '')} />
		<CableAndPots gear={id} />
	{/if}

	<section aria-labelledby="next" class="mb-8">
		<h2 id="next" class="mb-2">
			{gear.kind === 'pickup'
				? 'Its resonance, with a sweep coil'
				: read.length
					? 'Measure another setting'
					: 'Measure it'}
		</h2>
		<div class="grid gap-6 lg:grid-cols-[1fr_22rem]">
			<div>
				<p class="mb-2">
					<span class="font-semibold">1.</span> Set its knobs, and write down here where they stand.
				</p>
				<div class="flex flex-wrap gap-3 mb-4">
					{#each gear.controls as control, i (control.key)}
						<Knob
							of={gear.name}
							setting={{
								key: control.key,
								name: control.name,
								text: set[control.key]?.text ?? gear.control_texts[i] ?? '',
								position: set[control.key]?.position ?? control.default,
								scale: control.scale,
								labels: control.labels ?? []
							}}
							onset={(text) => turn(control.key, text)} />
					{:else}
						<p class="quiet">
							No knobs are noted: <a class="underline" href="/gear/{id}">add them</a> so that settings can be told apart.
						</p>
					{/each}
				</div>
				<p class="mb-1">
					<span class="font-semibold">2.</span> Play the test file through it and record what comes back.
				</p>
				<p class="flex flex-wrap gap-2 mb-4">
					<a class="btn btn-sm btn-primary" href="/api/testfile.wav?rate=48000" download>Test file, 48 kHz</a>
					<a class="btn btn-sm" href="/api/testfile.wav?rate=44100" download>44.1 kHz</a>
					<a class="btn btn-sm" href="/api/testfile.wav?rate=96000" download>96 kHz</a>
					<span class="quiet text-sm self-center">WAV, 24 bit, 88 seconds</span>
				</p>
				<p class="mb-1"><span class="font-semibold">3.</span> Drop the recording here. It finds its own beginning.</p>
				<DropZone label="Drop the recording" choose="Choose the recording" {sending} onfiles={(files) => send(files)} />
				{#if found.stand_in}
					<p class="mt-3 text-sm">
						<button class="btn btn-sm btn-ghost border rule" disabled={benching} onclick={onBench}>
							{benching ? 'The bench is playing…' : 'Measure its stand-in on the bench'}
						</button>
						<span class="quiet">No interface at hand? A simulated device of the same kind; it is not this one.</span>
					</p>
				{/if}
				{#if gear.kind === 'amplifier'}<div class="mt-8"><Loudness gear={id} /></div>{/if}
			</div>
			<Guidance
				kind={gear.kind}
				loops={found.loops}
				{nominal}
				onloop={(files) => send(files, true)}
				onown={ownLevel}
				onremoved={refresh} />
		</div>
	</section>

	{#if found.probes.length}
		<section aria-labelledby="settings" class="mb-8">
			<h2 id="settings" class="mb-2">Settings measured</h2>
			<div class="border-t rule">
				{#each found.probes as probe (probe.id)}<ProbeRow {probe} onremoved={refresh} />{/each}
			</div>
		</section>
	{/if}

	{#if read.length > 1}
		<section aria-labelledby="knobs" class="mb-8">
			<h2 id="knobs" class="mb-2">What each knob can do</h2>
			<div class="grid gap-4 sm:grid-cols-2 lg:grid-cols-3">
				{#each found.knobs as knob (knob.key)}<KnobCurve {knob} gear={id} />{/each}
			</div>
		</section>
	{/if}

	{#if read.length}<Against gear={id} name={gear.name} kind={gear.kind} />{/if}
	<p class="text-sm quiet mt-6">
		<a class="underline" href="/measures">What each reading means and how it is computed</a>
	</p>
{/if}
