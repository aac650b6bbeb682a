<script lang="ts">
	/** Lining up by hand: nudge what sounds, drag its lane, or say that two takes are at the same place. */
	import { onDestroy, tick } from 'svelte';
	import { api, got, type Poured } from '$lib/api/client';
	import { arrows } from '$lib/arrows';
	import { player } from '$lib/audio/player.svelte';
	import { clock } from '$lib/audio/timeline';
	import { keys } from '$lib/keys.svelte';
	import { notices } from '$lib/notices.svelte';

	/** Where a take is to lie; it is kept when the hand rests. */
	type Wanted = { key: string; take_id: number; lag_s: number };
	let { open = $bindable(false), wanted = $bindable(null) }: { open: boolean; wanted: Wanted | null } = $props();
	/** A place in a take: the time of the reference at which it sounded as the take lay then. */
	type Mark = { key: string; name: string; at_s: number };

	const STEPS_MS = [100, 10, 1] as const;
	const REST_MS = 350;
	let mark = $state<Mark | null>(null);
	let section = $state<HTMLElement>();
	let timer: ReturnType<typeof setTimeout> | undefined;
	let keeping: Promise<void> = Promise.resolve();

	const take = $derived(player.sounding);
	const pending = $derived(wanted !== null && wanted.key === take?.key);
	/** How far it is moved on the common timeline: what begins late is moved earlier. */
	const moved_ms = $derived(Math.round(-1000 * (wanted && pending ? wanted.lag_s : (take?.lag_s ?? 0))));

	/** Earlier or later on the common timeline, from where it is wanted by now. */
	export function move(which: Poured, later_s: number) {
		if (which.reference) return void notices.say('The others are lined up with this take: move them instead.');
		if (which.take_id == null) return;
		if (wanted && wanted.key !== which.key) void keep(wanted);
		const from_s = wanted?.key === which.key ? wanted.lag_s : which.lag_s;
		wanted = { key: which.key, take_id: which.take_id, lag_s: from_s - later_s };
		clearTimeout(timer);
		timer = setTimeout(() => wanted && void keep(wanted), REST_MS);
	}

	/** One after the other, so that the last one stands. */
	async function keep(one: { take_id: number; lag_s: number | null }) {
		keeping = keeping.then(async () => {
			try {
				const path = { take_id: one.take_id };
				await got(api.POST('/api/takes/{take_id}/line-up', { params: { path }, body: { lag_s: one.lag_s } }));
				await player.refresh();
			} catch (error) {
				notices.fail(error);
			} finally {
				if (wanted === one) wanted = null;
			}
		});
		await keeping;
	}

	function place(which: Poured, lag_s: number | null) {
		if (which.take_id != null) void keep({ take_id: which.take_id, lag_s });
	}

	function nudge(later_ms: number) {
		if (take) move(take, later_ms / 1000);
	}

	/** The first time it marks a place; the second time it says that what sounds now is at the same place. */
	function samePlace() {
		if (!take) return;
		const now_s = player.position + player.span.origin_s;
		if (!mark || mark.key === take.key) {
			mark = { key: take.key, name: take.name, at_s: now_s };
			return;
		}
		const marked = player.takes.find((one) => one.key === mark?.key);
		const apart_s = now_s - mark.at_s;
		mark = null;
		if (!take.reference) place(take, take.lag_s + apart_s);
		else if (marked) place(marked, marked.lag_s - apart_s);
	}

	$effect(() => {
		if (!open) return;
		return keys.on({
			earlier: () => nudge(-10),
			later: () => nudge(10),
			earlierALittle: () => nudge(-1),
			laterALittle: () => nudge(1),
			earlierALot: () => nudge(-100),
			laterALot: () => nudge(100),
			samePlace
		});
	});
	$effect(() => {
		if (open) void tick().then(() => section?.scrollIntoView({ block: 'nearest' }));
	});
	$effect(() => keys.on({ byHand: () => (open = !open) }));
	onDestroy(() => clearTimeout(timer));
</script>

<section bind:this={section} class="mt-3 scroll-mb-24" aria-label="Line up by hand">
	<button class="btn btn-sm" aria-expanded={open} onclick={() => (open = !open)}>Line up by hand</button>
	{#if open && take}
		<p class="text-xl mt-2 figures" aria-live="polite">
			{take.name}:
			{#if take.reference}the others are lined up with it
			{:else}{moved_ms ? `moved ${Math.abs(moved_ms)} ms ${moved_ms < 0 ? 'earlier' : 'later'}` : 'not moved'},
				{pending ? 'not kept yet' : take.by_hand ? 'by hand' : take.lined_up ? 'as measured' : 'not lined up'}{/if}
		</p>
		<div class="flex flex-wrap gap-2 mt-2 items-center" {@attach arrows}>
			<span class="quiet text-sm">Earlier</span>
			{#each STEPS_MS as step (step)}
				<button
					class="btn figures"
					disabled={take.reference}
					onclick={() => nudge(-step)}
					aria-label="{step} ms earlier">−{step}</button>
			{/each}
			{#each [...STEPS_MS].reverse() as step (step)}
				<button class="btn figures" disabled={take.reference} onclick={() => nudge(step)} aria-label="{step} ms later"
					>+{step}</button>
			{/each}
			<span class="quiet text-sm">ms later</span>
			<button class="btn" onclick={samePlace}
				>{mark && mark.key !== take.key ? `Same place as in ${mark.name}` : 'Mark this place'}</button>
			{#if mark}<button class="btn btn-ghost" onclick={() => (mark = null)}>Forget the mark</button>{/if}
			{#if take.by_hand}<button class="btn btn-ghost" onclick={() => take && place(take, null)}>As measured</button
				>{/if}
		</div>
		<p class="quiet text-sm mt-2">
			{#if mark}Marked in {mark.name} at {clock(mark.at_s - player.span.origin_s)}: go to the same note of another take
				and press <kbd class="hint">P</kbd> again.
			{:else}Drag a lane, or <kbd class="hint">Shift+←</kbd> <kbd class="hint">Shift+→</kbd> 10 ms, with
				<kbd class="hint">Ctrl</kbd> 1 ms, with both 100 ms; <kbd class="hint">P</kbd> marks a place,
				<kbd class="hint">Ctrl+Z</kbd> takes back.{/if}
		</p>
	{/if}
</section>
