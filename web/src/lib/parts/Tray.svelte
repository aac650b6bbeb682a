<script lang="ts">
	/** What is poured now. It plays on whatever page is open; with nothing poured it is one thin line. */
	import Pause from '@lucide/svelte/icons/pause';
	import Play from '@lucide/svelte/icons/play';
	import Repeat from '@lucide/svelte/icons/repeat';
	import X from '@lucide/svelte/icons/x';
	import { page } from '$app/state';
	import { SCHOOL_NAMES, type School } from '$lib/api/client';
	import { player } from '../audio/player.svelte';
	import { clock } from '../audio/timeline';
	import Lanes from './Lanes.svelte';
	import Fingerprint from './Fingerprint.svelte';
	import Token from './Token.svelte';

	// The Listen page shows the lanes itself, larger.
	const listening = $derived(page.url.pathname.endsWith('/listen'));
</script>

<section aria-label="The tray" data-part class="no-print border-t rule bg-base-200 shrink-0">
	{#if !player.tray && !player.loading}
		<p class="px-4 py-1 text-sm quiet">Nothing is poured. Choose a take in a flight to hear it here.</p>
	{:else if !player.tray}
		<p class="px-4 py-3" role="status">Pouring… {player.loaded} takes ready</p>
	{:else}
		<div class="px-3 pt-2 flex flex-wrap items-center gap-x-3 gap-y-1">
			<button
				class="btn btn-primary btn-sm w-12"
				onclick={() => player.toggle()}
				disabled={!player.takes.length}
				aria-label={player.playing ? 'Pause' : 'Play'}>
				{#if player.playing}<Pause size={18} />{:else}<Play size={18} />{/if}
			</button>
			<div role="group" aria-label="Contenders" class="flex flex-wrap gap-1 {listening ? 'hidden' : ''}">
				{#each player.takes as take (take.key)}
					{@const sounds = take.key === player.heard}
					<button
						class="flex items-center gap-1.5 rounded px-2 py-1 border-2 text-sm max-w-34 {sounds
							? 'border-primary bg-base-100 font-semibold'
							: 'border-transparent hover:border-base-300'}"
						aria-pressed={sounds}
						data-voice={take.key}
						onclick={() => player.hear(take.key)}
						title={take.name}>
						{#if take.number < 10}<kbd class="hint">{take.number}</kbd>{/if}
						<Token letter={take.letter} colour={take.colour} size="s" />
						<span class="leading-tight line-clamp-2 text-left">{take.name}</span>
						<Fingerprint gear={take.gear_id ?? null} />
						{#if take.problem}<span class="text-error" title={take.problem}>!</span>{/if}
					</button>
				{/each}
			</div>
			<span class="grow"></span>
			<label class="text-sm flex items-center gap-1">
				<span class="sr-only">Test</span>
				<select
					class="select select-sm w-36"
					value={player.tray.poured.key}
					onchange={(event) => player.pourOther(event.currentTarget.value)}>
					{#each player.tray.others as one (one.key)}<option value={one.key}>{one.name}</option>{/each}
				</select>
			</label>
			{#if player.tray.target != null}
				<button
					class="btn btn-sm btn-neutral border-primary border-2"
					aria-pressed="true"
					onclick={() => player.asRecorded()}>with the target</button>
			{:else if player.tray.tone_of != null}
				<button
					class="btn btn-sm btn-neutral border-primary border-2"
					aria-pressed="true"
					title={player.tray.school_text}
					onclick={() => player.toggleTone()}>
					<kbd class="hint">Q</kbd> in the tone of {player.takes.find(
						(one) => one.contender_id === player.tray?.tone_of
					)?.letter}
				</button>
			{:else}
				<button
					class="btn btn-sm"
					onclick={() => player.nextSchool()}
					title={player.tray.school_text}
					aria-label="Level: {SCHOOL_NAMES[player.tray.school as School]}">
					{SCHOOL_NAMES[player.tray.school as School]}
				</button>
			{/if}
			<button class="btn btn-sm" aria-pressed={player.loop !== null} onclick={() => player.toggleLoop()}>
				<Repeat size={15} />
				{#if player.loop}<span class="figures">{clock(player.loop.start_s)}–{clock(player.loop.end_s)}</span>{:else}loop
					off{/if}
			</button>
			<span class="figures text-sm whitespace-nowrap w-28 text-right" data-testid="position"
				>{clock(player.position)} / {clock(player.span.length_s)}</span>
			<button class="btn btn-sm btn-square btn-ghost" onclick={() => player.close()} aria-label="Put the tray away"
				><X size={16} /></button>
		</div>
		{#if listening}<div class="pb-2"></div>{:else}<div class="px-3 pb-2 pt-1"><Lanes height={44} /></div>{/if}
	{/if}
</section>
