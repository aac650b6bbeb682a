<script lang="ts">
	/** How an item plays, in the person's own scores: they count beside fit and price. */
	import type { Brief } from '$lib/api/client';
	import type { BriefDraft } from '$lib/brief-draft.svelte';

	let { brief, draft, gear, name }: { brief: Brief; draft: BriefDraft; gear: number; name: string } = $props();
	const ASPECTS = [
		['neck', 'Neck and strings'],
		['weight', 'Weight'],
		['balance', 'Balance'],
		['controls', 'Controls']
	] as const;
	const mine = $derived(brief.need.feel?.[gear] ?? {});
	const said = $derived(ASPECTS.map(([key]) => mine[key]).filter((one) => one != null));

	function score(key: (typeof ASPECTS)[number][0], text: string) {
		const feel = { ...brief.need.feel };
		const next = { ...mine, [key]: text === '' ? null : Number(text) };
		if (Object.values(next).some((one) => one != null)) feel[gear] = next;
		else delete feel[gear];
		void draft.keep(brief, { feel });
	}
</script>

<details class="mt-1 text-sm no-print">
	<summary class="cursor-pointer quiet w-fit"
		>How it plays, for you{said.length
			? `: ${(said.reduce((sum, one) => sum + one, 0) / said.length).toFixed(1)} of 10`
			: ''}</summary>
	<div class="flex flex-wrap gap-4 mt-2">
		{#each ASPECTS as [key, label] (key)}
			<label class="flex flex-col"
				>{label}
				<select
					class="select select-sm w-28"
					aria-label="{label} of {name}"
					value={mine[key] == null ? '' : String(mine[key])}
					onchange={(event) => score(key, event.currentTarget.value)}>
					<option value="">not said</option>
					{#each Array.from({ length: 11 }, (_, n) => String(n)) as one (one)}<option value={one}>{one}</option>{/each}
				</select>
			</label>
		{/each}
	</div>
</details>
