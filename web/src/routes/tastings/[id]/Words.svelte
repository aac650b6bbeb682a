<script lang="ts">
	/** Words for each glass: typed, or picked from what players say. */
	import { createQuery } from '@tanstack/svelte-query';
	import { api, got } from '$lib/api/client';
	import { arrows } from '$lib/arrows';

	let {
		labels,
		notes = $bindable(),
		hear
	}: { labels: string[]; notes: Record<string, string>; hear: (label: string) => void } = $props();
	const known = createQuery(() => ({
		queryKey: ['words'],
		staleTime: Infinity,
		queryFn: () => got(api.GET('/api/words'))
	}));
	// Picks itself anew when other glasses come: the first of them.
	let picked = $state('');
	const at = $derived(labels.includes(picked) ? picked : (labels[0] ?? ''));

	const has = (word: string) => (notes[at] ?? '').split(', ').includes(word);
	function turn(word: string) {
		const words = (notes[at] ?? '').split(', ').filter(Boolean);
		notes[at] = (has(word) ? words.filter((one) => one !== word) : [...words, word]).join(', ');
	}
</script>

<div class="grid gap-3 max-w-4xl">
	{#each labels as label (label)}
		<label class="flex items-center gap-4">
			<span class="text-2xl font-bold figures w-8 text-center {at === label ? 'text-primary' : ''}">{label}</span>
			<input
				class="input grow"
				maxlength="500"
				aria-label="Words for glass {label}"
				placeholder="warm, not boomy …"
				value={notes[label] ?? ''}
				onfocus={() => {
					picked = label;
					hear(label);
				}}
				oninput={(event) => (notes[label] = event.currentTarget.value)} />
		</label>
	{/each}
	<div class="flex flex-wrap gap-1" role="group" aria-label="Words to pick for glass {at}" {@attach arrows}>
		{#each known.data ?? [] as word (word.key)}
			<button
				class="btn btn-xs {has(word.key) ? 'btn-neutral border-primary border-2' : ''}"
				aria-pressed={has(word.key)}
				title={word.about}
				onclick={() => turn(word.key)}>{word.key}</button>
		{/each}
	</div>
</div>
