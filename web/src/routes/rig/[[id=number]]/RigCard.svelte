<script lang="ts">
	/** A rig: its parts in the order of the signal, what they cost and make, and what it gives up against the best. */
	import type { Brief, Rigs } from '$lib/api/client';
	import type { BriefDraft } from '$lib/brief-draft.svelte';
	import Feel from '$lib/parts/Feel.svelte';

	type Props = {
		brief: Brief | undefined;
		draft: BriefDraft;
		rig: Rigs['rigs'][number];
		place: number;
		/** What stands in the first rig: there it is scored. */
		above?: number[];
		locked: number[];
		own: number[];
		onkeep: () => unknown;
		onlock: (gear: number) => unknown;
		onown: (gear: number) => unknown;
	};
	let { brief, draft, rig, place, above = [], locked, own, onkeep, onlock, onown }: Props = $props();
	const first = $derived(place === 1);
	const most = $derived(Math.max(...rig.parts.map((part) => part.adds ?? 0), 0.001));
	const points = (value: number) => Math.round(value * 100);
</script>

<article
	class="border rounded-box p-3 {first ? 'border-primary border-2' : 'rule'}"
	aria-label="Rig {place}: {rig.parts.map((part) => part.name).join(', ')}">
	<header class="flex flex-wrap gap-x-5 items-baseline mb-2">
		<span class="figures text-2xl">{place}</span>
		<span class="grow">fit <span class="figures font-semibold">{points(rig.fit)} %</span></span>
		<span class="figures text-lg">{rig.price_text}</span>
		{#if rig.left_text}<span class="quiet text-sm figures">leaves {rig.left_text}</span>{/if}
		<button class="btn btn-xs no-print" aria-label="Make a card of rig {place}" onclick={onkeep}>Make a card</button>
	</header>
	{#each rig.deals ?? [] as deal (deal.words)}<p class="text-sm quiet mb-1">{deal.words}</p>{/each}
	{#if rig.gives_up.length}
		<p class="text-sm mb-2">{rig.gives_up.map((one) => one.words).join('; ')}.</p>
	{/if}
	<ul class="text-sm">
		{#each rig.parts as part, n (n)}
			<li class="grid sm:grid-cols-[7rem_1fr_auto] gap-x-3 py-1 border-t rule">
				<span class="quiet">{part.place}</span>
				<span>
					<a class="hover:underline font-semibold" href="/gear/{part.gear_id}">{part.name}</a>{#if part.count > 1}<span
							class="figures">
							× {part.count}</span
						>{/if}
					{#if part.serves.length}<span class="quiet">on for {part.serves.join(', ').toLowerCase()}</span>
					{:else if part.why}<span class="quiet">{part.why.words}</span>{/if}
					{#if part.adds != null && first}
						<span class="flex items-center gap-2 text-xs quiet">
							<span class="h-1.5 w-24 bg-base-300 rounded-sm relative" aria-hidden="true"
								><span
									class="absolute inset-y-0 left-0 bg-secondary rounded-sm"
									style="width:{(100 * Math.max(0, part.adds)) / most}%"></span
								></span>
							adds {points(part.adds)} point{points(part.adds) === 1 ? '' : 's'} of fit{part.adds_low != null &&
							part.adds_high != null
								? ` (${points(part.adds_low)} to ${points(part.adds_high)})`
								: ''}
						</span>
					{/if}
					{#if first}
						{#each part.liked ?? [] as one (one.words)}
							<span class="text-xs quiet {one.code === 'feels' ? 'hidden print:block' : 'block'}">{one.words}</span>
						{/each}
						{#each part.cautions as caution (caution.words)}<span class="block text-xs">{caution.words}</span>{/each}
					{/if}
					{#if brief && part.held && !above.includes(part.gear_id)}<Feel
							{brief}
							{draft}
							gear={part.gear_id}
							name={part.name} />{/if}
				</span>
				<span class="flex gap-2 items-center justify-end">
					<span class="figures {part.price_old ? 'opacity-60' : ''}" title={part.price_about}
						>{part.price_text}{part.price_old ? ', old' : ''}</span>
					<button
						class="btn btn-xs no-print {locked.includes(part.gear_id) ? 'btn-primary' : ''}"
						aria-pressed={locked.includes(part.gear_id)}
						aria-label="{locked.includes(part.gear_id) ? 'Locked' : 'Lock'} {part.name}"
						onclick={() => onlock(part.gear_id)}>{locked.includes(part.gear_id) ? 'locked' : 'lock'}</button>
					<button
						class="btn btn-xs btn-ghost no-print"
						aria-pressed={own.includes(part.gear_id)}
						aria-label="{own.includes(part.gear_id) ? 'Mine' : 'I have it'}: {part.name}"
						onclick={() => onown(part.gear_id)}>{own.includes(part.gear_id) ? 'mine' : 'I have it'}</button>
				</span>
			</li>
		{/each}
	</ul>
	{#each rig.pairings ?? [] as pairing (pairing.words)}
		<p class="text-sm mt-2"><span aria-hidden="true" class="font-bold mr-1">−</span>{pairing.words}</p>
	{/each}
	<dl class="flex flex-wrap gap-x-6 text-sm mt-2">
		{#each Object.entries(rig.by_sound) as [sound, value] (sound)}
			<div class="flex gap-2">
				<dt class="quiet">{sound}</dt>
				<dd class="figures">{points(value)} %</dd>
			</div>
		{/each}
	</dl>
</article>
