<script lang="ts">
	/** A sound of a brief: how much it counts, and its ranges on the readings. */
	import type { Meta, Sound, SoundScale, Target } from '$lib/api/client';
	import { arrows } from '$lib/arrows';
	import Table from '$lib/parts/Table.svelte';
	import TargetRow from './TargetRow.svelte';

	type Props = {
		brief: number;
		sound: Sound;
		meta?: Meta;
		scale?: SoundScale;
		onchange: (sound: Sound) => unknown;
		onremove: () => unknown;
	};
	let { brief, sound, meta, scale, onchange, onremove }: Props = $props();
	const about = $derived(meta?.sounds.find((one) => one.sound.key === sound.key)?.about);
	const setTarget = (at: number, target: Target) =>
		onchange({ ...sound, targets: (sound.targets ?? []).map((one, i) => (i === at ? target : one)) });
</script>

<article class="border rule rounded-box p-3 mb-3" aria-label={sound.name} {@attach arrows}>
	<header class="flex gap-3 items-center flex-wrap">
		<h3 class="font-semibold grow">{sound.name}</h3>
		<label class="text-sm flex items-center gap-2"
			>counts
			<input
				type="range"
				class="range range-xs w-28"
				min="0"
				max="5"
				step="0.5"
				value={sound.weight}
				aria-label="How much {sound.name} counts"
				onchange={(event) => onchange({ ...sound, weight: Number(event.currentTarget.value) })} />
			<span class="figures w-6">{sound.weight}</span>
		</label>
		<label class="text-sm flex items-center gap-2"
			><input
				type="checkbox"
				class="checkbox checkbox-xs"
				checked={sound.must ?? false}
				aria-label="{sound.name} must be there in each of its tests"
				onchange={(event) => onchange({ ...sound, must: event.currentTarget.checked })} />must be there</label>
		<a class="btn btn-xs" href="/brief/point?brief={brief}&sound={sound.key}" aria-label="By pointing: {sound.name}"
			>By pointing</a>
		<button class="btn btn-ghost btn-xs" onclick={onremove} aria-label="Remove {sound.name}">remove</button>
	</header>
	{#if about}<p class="text-sm quiet mb-2">{about}</p>{/if}
	<Table look="table table-xs" grouped>
		<thead><tr><th>Reading</th><th>from</th><th>to</th><th>held</th><th>counts</th><th></th></tr></thead>
		<tbody>
			{#each sound.targets ?? [] as target, at (at)}
				<TargetRow
					{target}
					{meta}
					scale={scale?.targets[at]}
					of={sound.name}
					onchange={(changed) => setTarget(at, changed)}
					onremove={() => onchange({ ...sound, targets: (sound.targets ?? []).filter((_, n) => n !== at) })} />
			{/each}
		</tbody>
	</Table>
	<select
		class="select select-xs w-52 mt-1"
		aria-label="Add a reading to {sound.name}"
		value=""
		onchange={(event) => {
			const [reading, part] = event.currentTarget.value.split('|');
			if (reading)
				void onchange({
					...sound,
					targets: [
						...(sound.targets ?? []),
						{ reading, part: part ?? '', low: null, high: null, weight: 1, against: '' }
					]
				});
			event.currentTarget.value = '';
		}}>
		<option value="">Add a reading…</option>
		{#each meta?.readings ?? [] as one (one.key)}
			{#each one.targets as target (target.key)}
				<option value="{one.key}|{target.key}">{target.key ? `${one.name}: ${target.name}` : one.name}</option>
			{/each}
		{/each}
	</select>
</article>
