<script lang="ts">
	/** The rules of pairing: each with its school and reason; switched off, or counting half as much or twice. */
	import { createQuery } from '@tanstack/svelte-query';
	import { api, got, type Brief } from '$lib/api/client';
	import { arrows } from '$lib/arrows';
	import type { BriefDraft } from '$lib/brief-draft.svelte';

	let { brief, draft }: { brief: Brief; draft: BriefDraft } = $props();
	const rules = createQuery(() => ({ queryKey: ['pairing'], queryFn: () => got(api.GET('/api/pairing')) }));
	const STEPS = [
		[0, 'off'],
		[0.5, 'half'],
		[1, 'counts'],
		[2, 'twice']
	] as const;
	const weights = $derived(brief.need.pairing ?? {});
	const set = (key: string, weight: number) => draft.keep(brief, { pairing: { ...weights, [key]: weight } });
</script>

<details class="my-5 no-print">
	<summary class="cursor-pointer w-fit">What parts do to each other</summary>
	<p class="text-sm quiet mt-2">
		A rule speaks only where both parts were measured or are described; how much it takes off is a convention, so each
		can be weighed.
	</p>
	<ul class="text-sm mt-2" {@attach arrows}>
		{#each rules.data ?? [] as rule (rule.key)}
			<li class="grid sm:grid-cols-[1fr_7rem] gap-x-4 py-2 border-t rule items-center">
				<span
					><span class="font-semibold">{rule.title}</span> ({rule.school}). {rule.reason}
					<span class="block quiet"
						>{rule.shown_by ? `On the shelf: ${rule.shown_by.words}.` : 'No two items of the shelf show it.'}</span
					></span>
				{#if rule.safety}<span class="quiet">always</span>{:else}<select
						class="select select-sm"
						aria-label="How much it counts: {rule.title}"
						value={String(weights[rule.key] ?? 1)}
						onchange={(event) => set(rule.key, Number(event.currentTarget.value))}>
						{#each STEPS as [weight, name] (weight)}<option value={String(weight)}>{name}</option>{/each}
					</select>{/if}
			</li>
		{/each}
	</ul>
</details>
