<script lang="ts">
	/** The input: which device and channel, its level, its latency, and takes that could not be sent yet. */
	import { untrack } from 'svelte';
	import { live } from '$lib/live.svelte';
	import { notices } from '$lib/notices.svelte';
	import { recorder } from '$lib/audio/recorder.svelte';

	let measuring = $state(false);
	const db = $derived(recorder.peak > 0 ? Math.max(-60, 20 * Math.log10(recorder.peak)) : -60);

	async function attempt(what: () => Promise<unknown>) {
		try {
			await what();
		} catch (error) {
			notices.fail(error);
		}
	}

	async function latency() {
		measuring = true;
		await attempt(async () => notices.say(`Round trip: ${await recorder.measureLatency()}.`));
		measuring = false;
	}

	// What could not be sent goes out as soon as the server is back.
	$effect(() => {
		if (live.connected) untrack(() => recorder.unsent.length && void attempt(() => recorder.again()));
	});
</script>

<section class="mt-4 border-t rule pt-3 flex flex-wrap gap-x-5 gap-y-2 items-center" aria-label="Input">
	{#if !recorder.ready}
		<button class="btn btn-sm" onclick={() => attempt(() => recorder.open())}>Open the input</button>
		<span class="quiet text-sm"
			>Records here at full quality, without any processing; or record elsewhere and drop files.</span>
	{:else}
		<div class="flex items-center gap-2" role="group" aria-label="Level">
			<div class="w-48 h-4 border rule relative" aria-hidden="true">
				<div
					class="h-full"
					style="width:{((db + 60) / 60) * 100}%;background:{recorder.over
						? 'var(--color-error)'
						: 'var(--color-primary)'}">
				</div>
			</div>
			<span class="figures w-20 {recorder.over ? 'text-error font-semibold' : ''}"
				>{recorder.over ? 'clipped' : `${db.toFixed(0)} dBFS`}</span>
		</div>
		{#if recorder.counting}<span class="text-4xl font-bold figures" role="status">{recorder.counting}</span>
		{:else if recorder.recording}<span class="text-2xl figures" role="status">{recorder.seconds.toFixed(1)} s</span
			>{/if}
		{#if recorder.channels > 1}
			<label class="flex items-center gap-1 text-sm"
				>Channel
				<select class="select select-sm w-28" bind:value={recorder.input} disabled={recorder.recording}>
					<option value="left">left (1)</option>
					<option value="right">right (2)</option>
					<option value="both">both, stereo</option>
				</select>
			</label>
		{/if}
		{#if recorder.devices.length > 1}
			<select
				class="select select-sm w-56"
				aria-label="Input device"
				disabled={recorder.recording}
				onchange={(event) => attempt(() => recorder.open(event.currentTarget.value))}>
				{#each recorder.devices as device, i (device.deviceId)}
					<option value={device.deviceId}>{device.label || `input ${i + 1}`}</option>
				{/each}
			</select>
		{/if}
		<span class="text-sm quiet figures">{(recorder.rate / 1000).toFixed(1)} kHz</span>
		<button class="btn btn-sm" disabled={measuring || recorder.recording} onclick={latency}>
			{measuring ? 'Listening…' : 'Measure latency'}
		</button>
		<span class="text-sm quiet"
			>{recorder.latencyMs === null
				? 'not measured: connect an output to the input, or let the microphone hear the speaker'
				: `${recorder.latencyMs.toFixed(1)} ms taken out`}</span>
	{/if}
	{#if recorder.sending}<span role="status">Sending…</span>{/if}
	{#if recorder.unsent.length}
		<span class="text-error font-semibold" role="alert"
			>{recorder.unsent.length} take{recorder.unsent.length > 1 ? 's' : ''} not sent yet</span>
		<button class="btn btn-sm" onclick={() => attempt(() => recorder.again())}>Send again</button>
	{/if}
</section>
