<script lang="ts">
	/** Listen: big tokens, lanes, loop. Made to be read from two metres and worked with one key. */
	import Pause from '@lucide/svelte/icons/pause';
	import Play from '@lucide/svelte/icons/play';
	import { SCHOOL_NAMES, type School } from '$lib/api/client';
	import { arrows } from '$lib/arrows';
	import { player } from '$lib/audio/player.svelte';
	import { clock } from '$lib/audio/timeline';
	import Empty from '$lib/parts/Empty.svelte';
	import Lanes from '$lib/parts/Lanes.svelte';
	import Loading from '$lib/parts/Loading.svelte';
	import Token from '$lib/parts/Token.svelte';
	import { useFlight } from '../flight.svelte';
	import BesideBed from './BesideBed.svelte';
	import Hand from './Hand.svelte';

	const flight = useFlight();
	const ready = $derived(
		flight.data?.tests.filter((test) => flight.data?.takes.some((t) => t.test_id === test.id && t.state === 'ready')) ??
			[]
	);
	const here = $derived(player.tray?.of === 'flight' && player.tray.owner_id === flight.id ? player.tray : null);
	let asked = $state(false);
	let hand = $state<Hand>();
	let byHand = $state(false);
	let wanted = $state.raw<{ key: string; take_id: number; lag_s: number } | null>(null);
	const moved = $derived.by(() => {
		const take = here?.takes.find((one) => one.key === wanted?.key);
		return wanted && take ? { key: take.key, by_s: take.lag_s - wanted.lag_s } : null;
	});

	$effect(() => {
		const first = ready[0];
		if (!here && first && !asked && !player.loading) {
			asked = true;
			void player.pour(flight.id, first.id);
		}
	});
</script>

{#if !ready.length}
	<Empty title="Nothing to hear yet">
		<p>Place recordings in the table first; they can be heard as soon as they have been read.</p>
		<a class="btn btn-sm" href="/flights/{flight.id}/takes">To the takes</a>
	</Empty>
{:else if here}
	{@const sounding = player.sounding}
	<div class="flex flex-wrap gap-2 mb-4" role="group" aria-label="Tests" {@attach arrows}>
		{#each here.others as test (test.key)}
			<button
				class="btn {here.poured.key === test.key ? 'btn-neutral border-primary border-2' : 'btn-ghost border-base-300'}"
				aria-pressed={here.poured.key === test.key}
				onclick={() => player.pourOther(test.key)}>{test.name}</button>
		{/each}
		<span class="grow"></span>
		<a class="btn" href="/flights/{flight.id}/blend?test={here.poured.key}">Blend two</a>
		<a class="btn" href="/tastings?flight={flight.id}&test={here.poured.key}">Taste it blind</a>
	</div>
	<div class="flex items-center gap-6 mb-4 min-h-28 flex-wrap">
		<button
			class="btn btn-primary size-24 rounded-box"
			onclick={() => player.toggle()}
			aria-label={player.playing ? 'Pause the music' : 'Play the music'}>
			{#if player.playing}<Pause size={48} />{:else}<Play size={48} />{/if}
		</button>
		<div aria-live="polite" class="min-w-0">
			{#if sounding}
				<p class="flex items-center gap-5 text-5xl sm:text-7xl font-bold leading-tight">
					<Token letter={sounding.letter} colour={sounding.colour} size="l" />
					<span>{sounding.name}</span>
				</p>
				<p class="text-xl mt-1 figures">
					{here.poured.name} · {SCHOOL_NAMES[here.school as School]}{here.school === 'as_set'
						? ''
						: `, ${sounding.gain_db >= 0 ? '+' : ''}${sounding.gain_db.toFixed(1)} dB`} · {clock(player.position)}
					{#if !sounding.lined_up}<span class="text-error"> · not lined up</span>{/if}
				</p>
			{/if}
		</div>
	</div>
	<div
		class="grid grid-cols-[repeat(auto-fill,minmax(13rem,1fr))] gap-2 mb-4"
		role="group"
		aria-label="Pour a contender">
		{#each here.takes as take (take.key)}
			{@const sounds = take.key === player.heard}
			<button
				class="flex items-center gap-3 rounded-box border-4 p-3 text-left text-xl {sounds
					? 'border-primary bg-base-200 font-semibold'
					: 'rule hover:bg-base-200'}"
				aria-pressed={sounds}
				onclick={() => player.hear(take.key)}>
				<span class="figures text-2xl w-6 text-center">{take.number}</span>
				<Token letter={take.letter} colour={take.colour} />
				<span class="min-w-0">
					<span class="block leading-tight line-clamp-2">{take.name}</span>
					{#if take.loudness_lufs !== null && take.loudness_phon !== null}
						<span class="block text-xs quiet figures whitespace-nowrap">
							{take.loudness_lufs?.toFixed(1).replace('-', '−')} LUFS · {take.loudness_phon?.toFixed(0)} phon</span>
					{/if}
					{#if take.problem}<span class="block text-sm text-error">{take.problem}</span>{/if}
				</span>
			</button>
		{/each}
	</div>
	<Lanes
		height={Math.min(300, 46 * Math.max(2, here.takes.length))}
		all
		{moved}
		onmove={byHand ? (take, later_s) => hand?.move(take, later_s) : undefined} />
	<Hand bind:this={hand} bind:open={byHand} bind:wanted />
	<BesideBed />
	<p class="quiet text-sm mt-3">
		{here.school_text}{here.lowered_db > 0
			? `; all lowered together by ${here.lowered_db.toFixed(1)} dB so that no peak is cut`
			: ''}. Under a name: LUFS as recorded, and in phon how loud the ear finds it at equal loudness.
		<kbd class="hint">→</kbd> next, <kbd class="hint">0</kbd> bypass and back, <kbd class="hint">L</kbd> loop,
		<kbd class="hint">[</kbd> <kbd class="hint">]</kbd> its ends, <kbd class="hint">G</kbd> level,
		<kbd class="hint">T</kbd>
		next test, <kbd class="hint">?</kbd> all keys.
	</p>
	<p class="text-sm mt-3 flex flex-wrap gap-x-4 gap-y-1 no-print" {@attach arrows}>
		<span class="quiet">To show it to others:</span>
		<a class="underline" href="/api/out/flights/{flight.id}/page.zip" download>a page to listen to</a>
		<a class="underline" href="/api/out/flights/{flight.id}/page.zip?blind=true&prices=false" download
			>the same without names</a>
		<a class="underline" href="/api/out/flights/{flight.id}/reel.zip" download>a reel</a>
	</p>
{:else}
	{#if player.failed}
		<Loading error={player.failed} retry={() => (asked = false)} />
	{:else}
		<p role="status">Pouring…</p>
	{/if}
{/if}
