<script lang="ts">
	/** How to connect and set levels, with a drawing; the loop-back of the interface. */
	import { api, got, type Probe } from '$lib/api/client';
	import { notices } from '$lib/notices.svelte';
	import FileButton from '$lib/parts/FileButton.svelte';

	let {
		kind,
		loops,
		nominal,
		fullScale,
		onfull,
		onloop,
		onown,
		onremoved
	}: {
		kind: string;
		loops: Probe[];
		nominal: number | null;
		fullScale: string | null;
		onfull: (text: string) => void;
		onloop: (files: File[]) => void;
		onown: (files: File[]) => void;
		onremoved: () => void;
	} = $props();
	let full = $state('');
	async function remove(id: number) {
		try {
			await got(api.DELETE('/api/probes/{probe_id}', { params: { path: { probe_id: id } } }));
			onremoved();
		} catch (error) {
			notices.fail(error);
		}
	}
</script>

<aside aria-label="How to connect" class="text-sm">
	<svg
		viewBox="0 0 330 128"
		class="w-full max-w-88"
		role="img"
		aria-label="Interface output to the device, device back to an interface input">
		<g fill="none" stroke="currentColor" stroke-width="1.6">
			<rect x="6" y="26" width="96" height="76" rx="3" />
			<rect x="212" y="38" width="98" height="52" rx="3" />
			<path d="M102 46 H150 V20 H261 V38" />
			<path d="M261 90 V112 H150 V84 H102" stroke-dasharray="6 3" />
			<path d="M257 31 l4 7 l4 -7 M109 80 l-7 4 l7 4" />
		</g>
		<g fill="currentColor" font-size="12">
			<text x="54" y="60" text-anchor="middle">interface</text>
			<text x="96" y="42" text-anchor="end">out</text>
			<text x="96" y="96" text-anchor="end">in</text>
			<text x="261" y="68" text-anchor="middle">device</text>
			<text x="156" y="15">test file</text>
			<text x="156" y="126">recording</text>
		</g>
	</svg>
	<ol class="list-decimal pl-5 space-y-1 my-2">
		<li>
			Line output to the device, device to a line or instrument input. Nothing else in between, nothing monitored.
		</li>
		<li>
			Output level: as loud as your guitar. Input level: the loudest passage peaks near −6 dBFS, at the device’s loudest
			setting, and stays there for every setting. Never into clipping.
		</li>
		<li>
			Switch off echo, reverb, chorus and tremolo: a device that moves by itself is refused. With a reverb on, its tail
			is told and nothing else.
		</li>
		<li>
			An amplifier: line input to its front, speaker connected, microphone untouched. <strong
				>Never run a valve amplifier without its speaker or a rated load; never open one.</strong>
		</li>
		<li>Earthed outlets, the pedal’s own voltage and polarity. It gets loud: protect your ears.</li>
	</ol>
	{#if kind === 'pickup'}
		<p>
			A pickup: lay a sweep coil (some ten turns of thin wire, a 100 Ω resistor in series) on its pole pieces, drive it
			from the output, record the pickup with its cable and pots. The loop-back is then a plain wire loop in the
			pickup’s place: without it no resonance is told.
		</p>
	{/if}
	<h3 class="font-semibold mt-3">Your own level</h3>
	<p class="quiet">
		Headroom is counted from {nominal === null
			? 'everyday playing at −20 dBFS'
			: `your own playing at ${nominal.toFixed(1).replace('-', '−')} dBFS`}.
	</p>
	<p class="flex flex-wrap gap-2">
		<FileButton text="Measure it from a dry recording of your strumming" kind="btn-xs" onfiles={onown} />
		{#if nominal !== null}<button class="btn btn-ghost btn-xs" onclick={() => onown([])}>Back to −20 dBFS</button>{/if}
	</p>
	<h3 class="font-semibold mt-3">What your interface sends</h3>
	<p class="quiet">
		{fullScale
			? `0 dBFS comes out as ${fullScale.replace('-', '−')}: breakup is told in volts.`
			: 'Without it breakup holds for this interface alone. See its data sheet, or put a meter on a sine at 0 dBFS.'}
	</p>
	<form
		class="flex gap-2 items-center"
		onsubmit={(event) => {
			event.preventDefault();
			onfull(full);
		}}>
		<label class="flex gap-2 items-center"
			>0 dBFS is <input class="input input-xs w-28" bind:value={full} placeholder="+18 dBu or 2.1 V" /></label>
		<button class="btn btn-xs" disabled={!full.trim() && !fullScale}>Keep</button>
	</form>
	<h3 class="font-semibold mt-3">Loop-back: the interface by itself</h3>
	<p class="quiet">
		A cable in the device’s place, recorded once: its gain, response and delay are taken out of all that follows.
	</p>
	{#each loops as loop (loop.id)}
		<p class="flex gap-2 items-center">
			<span class={loop.state === 'refused' ? 'text-error' : ''}
				>{loop.state === 'refused'
					? loop.refused
					: loop.state === 'waiting'
						? `reading: ${loop.what}`
						: `in use: ${loop.filename}`}</span>
			<button class="btn btn-ghost btn-xs" aria-label="Remove {loop.filename}" onclick={() => remove(loop.id)}
				>remove</button>
		</p>
	{/each}
	<FileButton text="Add a loop-back recording" kind="btn-xs mt-1" onfiles={onloop} />
</aside>
