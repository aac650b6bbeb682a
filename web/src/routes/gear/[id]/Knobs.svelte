<script lang="ts">
	/** The knobs of an item: where each starts, and new ones. */
	import { api, got, type Gear } from '$lib/api/client';
	import { arrows } from '$lib/arrows';
	import { useMeta } from '$lib/meta';
	import Knob from '$lib/parts/Knob.svelte';
	import type { Change, Keep } from './item';

	let { gear, keep, change }: { gear: Gear; keep: Keep; change: Change } = $props();
	const meta = useMeta();
	let knobName = $state('');
	let scale = $state<'0-10' | 'clock' | 'percent' | 'labels'>('0-10');
	let labels = $state('');

	const TAPERS = ['linear', 'audio', 'reverse audio'] as const;
	type Taper = (typeof TAPERS)[number];
	const pots = $derived(gear.controls.filter((control) => control.scale !== 'labels'));
	const taper = (key: string, taper: Taper) =>
		change({ controls: gear.controls.map((one) => (one.key === key ? { ...one, taper } : one)) });

	async function addKnob(event: SubmitEvent) {
		event.preventDefault();
		const name = knobName.trim();
		const controls = gear.controls;
		if (!name) return;
		const key = `${name.toLowerCase().replace(/[^a-z0-9]+/g, '-')}-${controls.length + 1}`.slice(0, 40);
		const positions = labels
			.split('/')
			.map((one) => one.trim())
			.filter(Boolean);
		const control = { key, name, scale, default: scale === 'labels' ? 0 : 0.5, taper: 'linear', kind: 'knob' } as const;
		const added = { ...control, labels: scale === 'labels' ? positions : [] };
		if (await change({ controls: [...controls, added] })) knobName = labels = '';
	}
</script>

<section aria-labelledby="knobs">
	<h2 id="knobs" class="mb-2">Knobs, where they start</h2>
	<div class="flex flex-wrap gap-3 mb-3" {@attach arrows}>
		{#each gear.controls as control, i (control.key)}
			<div class="flex flex-col items-center">
				<Knob
					of={gear.name}
					setting={{
						key: control.key,
						name: control.name,
						text: gear.control_texts[i] ?? '',
						position: control.default,
						scale: control.scale,
						labels: control.labels ?? []
					}}
					onset={(text) =>
						keep(
							got(
								api.PUT('/api/gear/{gear_id}/controls/{key}', {
									params: { path: { gear_id: gear.id, key: control.key } },
									body: { text }
								})
							)
						)} />
				<button
					class="btn btn-ghost btn-xs font-normal quiet at-hand"
					aria-label="Remove {control.name}"
					onclick={() => change({ controls: gear.controls.filter((one) => one.key !== control.key) })}>remove</button>
			</div>
		{:else}<p class="quiet">No knobs noted yet.</p>{/each}
	</div>
	{#if pots.length}
		<details class="mb-3 text-sm">
			<summary class="cursor-pointer w-fit">Tapers of the pots</summary>
			<ul class="mt-1 grid gap-1" {@attach arrows}>
				{#each pots as control (control.key)}
					<li>
						<label class="flex gap-2 items-center"
							><span class="w-32">{control.name}</span>
							<select
								class="select select-xs w-36"
								value={control.taper}
								onchange={(event) => taper(control.key, event.currentTarget.value as Taper)}>
								{#each TAPERS as one (one)}<option>{one}</option>{/each}
							</select>
						</label>
					</li>
				{/each}
			</ul>
		</details>
	{/if}
	<form class="flex flex-wrap gap-2" onsubmit={addKnob}>
		<input
			class="input input-sm w-40"
			bind:value={knobName}
			placeholder="Drive"
			aria-label="New knob"
			maxlength={meta.data?.limits.knob_name} />
		<select class="select select-sm w-32" bind:value={scale} aria-label="Its scale">
			{#each meta.data?.choices.scales ?? [] as one (one.key)}<option value={one.key}>{one.name}</option>{/each}
		</select>
		{#if scale === 'labels'}
			<input
				class="input input-sm w-44"
				bind:value={labels}
				required
				placeholder="bright/normal/dark"
				aria-label="Its positions, divided by slashes" />
		{/if}
		<button class="btn btn-sm">Add knob</button>
	</form>
</section>
