<script lang="ts">
	/** A setting measured: its knobs written down, the test file out, the recording back in. */
	import { api, got, queries, type Evidence, type Gear } from '$lib/api/client';
	import { arrows } from '$lib/arrows';
	import { notices } from '$lib/notices.svelte';
	import DropZone from '$lib/parts/DropZone.svelte';
	import Guidance from './Guidance.svelte';
	import KnobsNow from './KnobsNow.svelte';
	import { sendRecording, sendStrumming } from './send';

	let { gear, found, again }: { gear: Gear; found: Evidence; again: boolean } = $props();
	/** Positions that a person set, as they wrote them and as the server read them. */
	let set = $state<Record<string, { text: string; position: number }>>({});
	const written = $derived(Object.fromEntries(Object.entries(set).map(([key, one]) => [key, one.text])));
	let sending = $state<{ name: string; share: number } | null>(null);
	let benching = $state(false);
	let ownNominal = $state<number | null>(null);
	const counted = $derived(found.probes.find((probe) => probe.nominal_dbfs !== null));
	const nominal = $derived(ownNominal ?? counted?.nominal_dbfs ?? null);
	let ownFull = $state<string | null>(null);
	const calibrated = $derived(found.probes.find((probe) => typeof probe.full_scale_dbu === 'number'));
	const fullScale = $derived(ownFull ?? (calibrated ? `${calibrated.full_scale_dbu!.toFixed(1)} dBu` : null));
	const refresh = () => queries.invalidateQueries();

	async function send(files: File[], loop = false) {
		for (const file of files) {
			sending = { name: file.name, share: 0 };
			await turning;
			try {
				await sendRecording(
					file,
					loop ? null : gear.id,
					written,
					nominal,
					fullScale,
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
			for (const probe of found.probes)
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

	/** What the interface sends at 0 dBFS: every measurement of this item is told in volts by it. */
	async function fullLevel(text: string) {
		try {
			for (const probe of found.probes)
				await got(
					api.PATCH('/api/probes/{probe_id}', { params: { path: { probe_id: probe.id } }, body: { full_scale: text } })
				);
			ownFull = text;
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
				api.GET('/api/gear/{gear_id}/knobs/{key}', { params: { path: { gear_id: gear.id, key }, query } })
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
					params: { path: { gear_id: gear.id } },
					body: { settings: written, nominal_dbfs: nominal, full_scale: fullScale }
				})
			);
			await refresh();
		} catch (error) {
			notices.fail(error);
		}
		benching = false;
	}
</script>

<section aria-labelledby="next" class="mb-8">
	<h2 id="next" class="mb-2">
		{gear.kind === 'pickup' ? 'Its resonance, with a sweep coil' : again ? 'Another setting' : 'Measure it'}
	</h2>
	<div class="grid gap-6 lg:grid-cols-[1fr_22rem]">
		<div>
			<p class="mb-2">
				<span class="font-semibold">1.</span> Set its knobs, and write down here where they stand.
			</p>
			<KnobsNow {gear} {set} onturn={turn} />
			<p class="mb-1">
				<span class="font-semibold">2.</span> Play the test file through it and record what comes back.
			</p>
			<p class="flex flex-wrap gap-2 mb-4" {@attach arrows}>
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
		</div>
		<Guidance
			kind={gear.kind}
			loops={found.loops}
			{nominal}
			{fullScale}
			onfull={fullLevel}
			onloop={(files) => send(files, true)}
			onown={ownLevel}
			onremoved={refresh} />
	</div>
</section>
