<script lang="ts">
	/** A pickup heard by its open strings: how it stood, the recording, and what it says against other pickups. */
	import { createQuery } from '@tanstack/svelte-query';
	import Play from '@lucide/svelte/icons/play';
	import { api, got, queries, type StringsHeard } from '$lib/api/client';
	import { player } from '$lib/audio/player.svelte';
	import { notices } from '$lib/notices.svelte';
	import DropZone from '$lib/parts/DropZone.svelte';
	import Loading from '$lib/parts/Loading.svelte';
	import Heights from './Heights.svelte';
	import StoodForm from './StoodForm.svelte';
	import { heights } from './strings';
	import StringsHowTo from './StringsHowTo.svelte';
	import StringsTable from './StringsTable.svelte';
	import { useMeta } from '$lib/meta';
	import { sendStrings, sendTone, type Stood } from './send';

	let { gear, position }: { gear: number; position: string } = $props();
	const meta = useMeta();
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
		if (!stood.position && meta.data?.choices.positions.includes(position))
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
	const asked = $derived(own.flatMap((row) => row.advice.map((one) => ({ at: where(row), text: one.words }))));
	const told = $derived(own.filter((row) => row.resonance));
	const untold = $derived([...new Set(own.map((row) => row.resonance_missing?.words).filter(Boolean))]);
	const bases = $derived([...new Set(rows.map((row) => row.basis?.words).filter(Boolean))]);
	const refresh = () => queries.invalidateQueries();

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
			<StoodForm bind:stood ontone={tone} />
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
		<StringsHowTo />
	</div>

	{#if !found.data}
		<Loading error={found.error} retry={() => found.refetch()} />
	{:else if rows.length}
		<div class="flex flex-wrap items-center gap-x-4 gap-y-1 mb-2">
			<p class="text-lg">{found.data.bridge_to_neck?.words ?? ''}</p>
			{#if heard}
				<button class="btn btn-sm" onclick={() => player.pourProof(gear, 'strings', true)}>
					<Play size={16} /> Hear them
				</button>
			{/if}
		</div>
		<StringsTable
			{rows}
			{gear}
			referenceId={found.data.reference_id}
			onreference={(id) => (reference = id)}
			onremove={remove} />
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
