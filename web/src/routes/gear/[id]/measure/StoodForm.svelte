<script lang="ts">
	/** How a pickup stands before its strings are recorded. */
	import FileButton from '$lib/parts/FileButton.svelte';
	import { useMeta } from '$lib/meta';
	import type { Stood } from './send';

	let { stood = $bindable(), ontone }: { stood: Stood; ontone: (files: File[]) => unknown } = $props();

	const meta = useMeta();

	/** A number as it was typed, null for nothing or for what is none. */
	function read(text: string): number | null {
		const value = Number(text.trim().replace(',', '.'));
		return text.trim() === '' || !Number.isFinite(value) ? null : value;
	}
	type Numbered = 'bass_mm' | 'treble_mm' | 'tone_mv' | 'tone_dbfs';
	const HEIGHTS: [Numbered, string][] = [
		['bass_mm', 'Bass side, mm'],
		['treble_mm', 'Treble side, mm']
	];
	const TONE: [Numbered, string][] = [
		['tone_mv', 'A tone of, mV RMS'],
		['tone_dbfs', 'was recorded at, dBFS RMS']
	];
</script>

{#snippet number(key: Numbered, name: string)}
	<label class="flex flex-col text-sm"
		>{name}
		<input
			class="input input-sm w-24"
			inputmode="decimal"
			value={stood[key] ?? ''}
			onchange={(event) => (stood[key] = read(event.currentTarget.value))} />
	</label>
{/snippet}

<div class="flex flex-wrap gap-4 mb-4 items-end">
	<label class="flex flex-col text-sm"
		>Position
		<select class="select select-sm w-28" bind:value={stood.position}>
			<option value="">not said</option>
			{#each meta.data?.choices.positions ?? [] as one (one)}<option>{one}</option>{/each}
		</select>
	</label>
	{#each HEIGHTS as [key, name] (key)}{@render number(key, name)}{/each}
	<details class="text-sm">
		<summary class="cursor-pointer underline">In millivolts, or as a flat reference</summary>
		<div class="flex flex-wrap gap-4 items-end mt-2">
			{#each TONE as [key, name] (key)}{@render number(key, name)}{/each}
			<FileButton text="read it from its recording" onfiles={ontone} />
			<label class="flex gap-2 items-center">
				<input class="checkbox checkbox-sm" type="checkbox" bind:checked={stood.flat} />
				flat to 10 kHz (buffered, low impedance)
			</label>
		</div>
	</details>
</div>
