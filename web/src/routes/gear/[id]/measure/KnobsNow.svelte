<script lang="ts">
	/** The knobs of the item that is measured, as they stand now. */
	import type { Gear } from '$lib/api/client';
	import { arrows } from '$lib/arrows';
	import Knob from '$lib/parts/Knob.svelte';

	type Set = Record<string, { text: string; position: number }>;
	let { gear, set, onturn }: { gear: Gear; set: Set; onturn: (key: string, text: string) => unknown } = $props();
</script>

<div class="flex flex-wrap gap-3 mb-4" {@attach arrows}>
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
			onset={(text) => onturn(control.key, text)} />
	{:else}
		<p class="quiet">
			No knobs are noted: <a class="underline" href="/gear/{gear.id}">add them</a> so that settings can be told apart.
		</p>
	{/each}
</div>
