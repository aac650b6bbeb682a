<script lang="ts">
	/** A sound of a brief: how much it counts, and its ranges on the readings. */
	import { api, got, type Meta, type Sound, type SoundScale, type Target } from '$lib/api/client';
	import { notices } from '$lib/notices.svelte';
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
	let text = $state('');
	let told = $state('');
	let busy = $state(false);
	/** Ranges from words take the place of those that are there; Ctrl+Z brings them back. */
	async function fromWords(event: SubmitEvent) {
		event.preventDefault();
		if (busy || !text.trim()) return;
		busy = true;
		try {
			const found = await got(api.POST('/api/words/sound', { body: { text: text.trim() } }));
			told = found.said.words;
			if (found.targets.length) await onchange({ ...sound, targets: found.targets });
		} catch (error) {
			notices.fail(error);
		} finally {
			busy = false;
		}
	}
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
				aria-label="{sound.name} must be there: what lacks it comes last"
				onchange={(event) => onchange({ ...sound, must: event.currentTarget.checked })} />must be there</label>
		<a class="btn btn-xs" href="/brief/point?brief={brief}&sound={sound.key}" aria-label="By pointing: {sound.name}"
			>By pointing</a>
		<button class="btn btn-ghost btn-xs" onclick={onremove} aria-label="Remove {sound.name}">remove</button>
	</header>
	{#if about}<p class="text-sm quiet mb-2">{about}</p>{/if}
	<form class="flex flex-wrap gap-2 items-center mb-1" onsubmit={fromWords}>
		<input
			class="input input-xs w-64 max-w-full"
			bind:value={text}
			maxlength="200"
			aria-label="{sound.name} in words"
			placeholder="in words: warm, tight, not fizzy" />
		<button class="btn btn-xs" disabled={busy || !text.trim()} aria-label="Ranges from these words: {sound.name}"
			>Ranges from these words</button>
		{#if told}<span class="text-sm quiet" role="status">{told}</span>{/if}
	</form>
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
