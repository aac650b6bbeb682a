<script lang="ts">
	/** A pickup heard by its open strings: how it stood, the recording, and what it says against other pickups. */
	import { createQuery } from '@tanstack/svelte-query';
	import Play from '@lucide/svelte/icons/play';
	import { api, got, queries, type StringsHeard } from '$lib/api/client';
	import { player } from '$lib/audio/player.svelte';
	import { notices } from '$lib/notices.svelte';
	import DropZone from '$lib/parts/DropZone.svelte';
	import FileButton from '$lib/parts/FileButton.svelte';
	import Loading from '$lib/parts/Loading.svelte';
	import Table from '$lib/parts/Table.svelte';
	import Heights from './Heights.svelte';
	import StringBars from './StringBars.svelte';
	import { sendStrings, sendTone, type Stood } from './send';

	let { gear, position }: { gear: number; position: string } = $props();
	let reference = $state<number | null>(null);
	let stood = $state<Stood>({
		position: '',
		bass_mm: null,
		treble_mm: null,
		tone_mv: null,
		tone_dbfs: null,
		flat: false
	});
	$effect(() => {
		if (!stood.position && ['bridge', 'middle', 'neck'].includes(position))
			stood.position = position as Stood['position'];
	});
	let sending = $state<{ name: string; share: number } | null>(null);
	let benching = $state(false);
	const found = createQuery(() => ({
		queryKey: ['strings', gear, reference],
		placeholderData: (last: unknown) => last as never,
		queryFn: () =>
			got(
				api.GET('/api/gear/{gear_id}/strings', {
					params: { path: { gear_id: gear }, query: { reference: reference ?? undefined } }
				})
			),
		refetchInterval: (query) => (query.state.data?.rows.some((row) => row.state === 'waiting') ? 700 : false)
	}));
	const rows = $derived(found.data?.rows ?? []);
	const own = $derived(rows.filter((row) => row.gear_id === gear));
	const heard = $derived(rows.some((row) => row.url));
	const where = (row: StringsHeard) => [row.position, heights(row)].filter(Boolean).join(', ');
	const asked = $derived(own.flatMap((row) => row.advice.map((text) => ({ at: where(row), text }))));
	const told = $derived(own.filter((row) => row.resonance));
	const untold = $derived([...new Set(own.map((row) => row.resonance_missing).filter(Boolean))]);
	const bases = $derived([...new Set(rows.map((row) => row.basis).filter(Boolean))]);
	const refresh = () => queries.invalidateQueries();
	const signed = (value: number, digits = 1) =>
		`${value > 0 ? '+' : ''}${value.toFixed(digits)}`.replace('-', '−').replace('+0.0', '0.0');
	const heights = (row: StringsHeard) =>
		row.bass_mm === null && row.treble_mm === null ? '' : `${row.bass_mm ?? '?'} / ${row.treble_mm ?? '?'} mm`;
	/** A number as it was typed, null for nothing or for what is none. */
	function read(text: string): number | null {
		const value = Number(text.trim().replace(',', '.'));
		return text.trim() === '' || !Number.isFinite(value) ? null : value;
	}

	async function trying(work: () => Promise<unknown>) {
		try {
			await work();
		} catch (error) {
			notices.fail(error);
		}
		await refresh();
	}
	async function send(files: File[]) {
		for (const file of files) {
			sending = { name: file.name, share: 0 };
			await trying(() => sendStrings(file, gear, stood, (share) => (sending = { name: file.name, share })));
			sending = null;
		}
	}
	async function onBench() {
		if (benching) return;
		benching = true;
		await trying(() =>
			got(api.POST('/api/gear/{gear_id}/strings/bench', { params: { path: { gear_id: gear } }, body: stood }))
		);
		benching = false;
	}
	const remove = (id: number) =>
		trying(async () => {
			await got(api.DELETE('/api/probes/{probe_id}', { params: { path: { probe_id: id } } }));
			notices.say('Removed. Ctrl+Z brings it back.');
		});
	const tone = (files: File[]) =>
		trying(async () => {
			if (files[0]) stood.tone_dbfs = Math.round((await sendTone(files[0])) * 100) / 100;
		});
</script>

<section aria-labelledby="strings" class="mb-8">
	<h2 id="strings" class="mb-2">Heard by its strings</h2>
	<div class="grid gap-6 lg:grid-cols-[1fr_22rem] mb-5">
		<div>
			<p class="mb-2"><span class="font-semibold">1.</span> Say how the pickup stands.</p>
			<div class="flex flex-wrap gap-4 mb-4 items-end">
				<label class="flex flex-col text-sm"
					>Position
					<select class="select select-sm w-28" bind:value={stood.position}>
						<option value="">not said</option>
						<option>bridge</option><option>middle</option><option>neck</option>
					</select>
				</label>
				{#each [['bass_mm', 'Bass side, mm'], ['treble_mm', 'Treble side, mm']] as const as [side, name] (side)}
					<label class="flex flex-col text-sm"
						>{name}
						<input
							class="input input-sm w-24"
							inputmode="decimal"
							value={stood[side] ?? ''}
							onchange={(event) => (stood[side] = read(event.currentTarget.value))} />
					</label>
				{/each}
				<details class="text-sm">
					<summary class="cursor-pointer underline">In millivolts, or as a flat reference</summary>
					<div class="flex flex-wrap gap-4 items-end mt-2">
						<label class="flex flex-col"
							>A tone of, mV RMS
							<input
								class="input input-sm w-24"
								inputmode="decimal"
								value={stood.tone_mv ?? ''}
								onchange={(event) => (stood.tone_mv = read(event.currentTarget.value))} />
						</label>
						<label class="flex flex-col"
							>was recorded at, dBFS RMS
							<input
								class="input input-sm w-24"
								inputmode="decimal"
								value={stood.tone_dbfs ?? ''}
								onchange={(event) => (stood.tone_dbfs = read(event.currentTarget.value))} />
						</label>
						<FileButton text="read it from its recording" onfiles={tone} />
						<label class="flex gap-2 items-center">
							<input class="checkbox checkbox-sm" type="checkbox" bind:checked={stood.flat} />
							flat to 10 kHz (buffered, low impedance)
						</label>
					</div>
				</details>
			</div>
			<p class="mb-1">
				<span class="font-semibold">2.</span> Record the six open strings, and drop the recording here.
			</p>
			<DropZone label="Drop the strings" choose="Choose the recording of the strings" {sending} onfiles={send} />
			<p class="mt-3 text-sm">
				<button class="btn btn-sm btn-ghost border rule" disabled={benching} onclick={onBench}>
					Have the bench play it
				</button>
				<span class="quiet">A simulated pickup with this coil; it is not this one.</span>
			</p>
		</div>
		<aside aria-label="How to record the strings" class="text-sm">
			<ol class="list-decimal pl-5 space-y-1">
				<li>Straight into the interface, nothing in between, all knobs up. A second of silence first.</li>
				<li>Strike each open string, low to high, let it ring two seconds, damp it before the next.</li>
				<li>Three rounds: only rounds tell the hand from the pickup.</li>
				<li>The input gain stays where it is for every pickup, or no output can be compared.</li>
				<li>
					Heights: from pole to string, pressed at the last fret, outer strings. <strong>Slacken the strings</strong> before
					you work under them.
				</li>
			</ol>
		</aside>
	</div>

	{#if !found.data}
		<Loading error={found.error} retry={() => found.refetch()} />
	{:else if rows.length}
		<div class="flex flex-wrap items-center gap-x-4 gap-y-1 mb-2">
			<p class="text-lg">{found.data.bridge_to_neck}</p>
			{#if heard}
				<button class="btn btn-sm" onclick={() => player.pourProof(gear, 'strings', true)}>
					<Play size={16} /> Hear them
				</button>
			{/if}
		</div>
		<Table label="Pickups by their strings">
			<thead>
				<tr>
					<th>Reference</th><th>Pickup</th><th>Heights</th><th>Output</th><th class="text-right">mV</th>
					<th>Balance, strings 6 to 1</th><th>Waver</th><th><span class="sr-only">Remove</span></th>
				</tr>
			</thead>
			<tbody>
				{#each rows as row (row.id)}
					<tr class={row.gear_id === gear ? '' : 'quiet'}>
						<td>
							<input
								class="radio radio-xs"
								type="radio"
								name="reference"
								aria-label="Hold all against {row.gear}, {row.position} {heights(row)}"
								disabled={row.state !== 'read'}
								checked={row.id === found.data.reference_id}
								onchange={() => (reference = row.id)} />
						</td>
						<th scope="row" class="font-semibold">
							{row.gear}{row.position ? `, ${row.position}` : ''}
							{#if row.bench}<span class="badge badge-sm">bench</span>{/if}
						</th>
						<td class="whitespace-nowrap figures">{heights(row)}</td>
						{#if row.state === 'waiting'}
							<td colspan="4"><span role="status">being read…</span></td>
						{:else if row.state === 'refused'}
							<td colspan="4"><span class="text-error" role="alert">Refused: {row.refused}</span></td>
						{:else}
							<td>
								{#if row.output_db === null}<span class="quiet">the others are held against it</span>
								{:else}
									<span class="figures font-semibold whitespace-nowrap">{signed(row.output_db)} dB</span>
									<span class="text-xs quiet"
										>{row.band_db === null ? '' : `± ${row.band_db.toFixed(1)}`}
										{bases.length > 1 ? row.basis : ''}</span>
								{/if}
							</td>
							<td class="figures text-right">{row.output_mv?.toFixed(0) ?? ''}</td>
							<td><StringBars levels={row.balance_db} band={row.balance_band_db} /></td>
							<td class="text-sm whitespace-nowrap">{row.waver || 'none'}</td>
						{/if}
						<td>
							<button
								class="btn btn-ghost btn-xs"
								aria-label="Remove {row.gear} {heights(row)}"
								onclick={() => remove(row.id)}>remove</button>
						</td>
					</tr>
				{/each}
			</tbody>
		</Table>
		{#if bases.length === 1}<p class="text-xs quiet mt-1">Outputs compared {bases[0]}.</p>{/if}
		<div class="grid gap-6 lg:grid-cols-2 mt-4">
			{#each found.data.heights as one (one.position)}<Heights raised={one} />{/each}
			<div>
				{#if asked.length}
					<h3 class="font-semibold">What it asks for</h3>
					<ul class="list-disc pl-5 mb-3">
						{#each asked as one (one.at + one.text)}
							<li>
								{#if one.at}<span class="quiet">{one.at}:</span>{/if}
								{one.text}
							</li>
						{/each}
					</ul>
				{/if}
				{#each told as row (row.id)}
					<p class="text-sm">
						<span class="quiet">Resonance{heights(row) ? ` at ${heights(row)}` : ''}:</span>
						{row.resonance}
					</p>
				{/each}
				{#each untold as reason (reason)}<p class="text-sm quiet">No resonance from playing: {reason}.</p>{/each}
			</div>
		</div>
	{/if}
</section>
