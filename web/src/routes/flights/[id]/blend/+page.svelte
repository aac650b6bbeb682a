<script lang="ts">
	/** Two sources of one performance mixed: what their sum loses, and the level at which it comes nearest to a target. */
	import Pause from '@lucide/svelte/icons/pause';
	import Play from '@lucide/svelte/icons/play';
	import { createQuery } from '@tanstack/svelte-query';
	import { onMount, untrack } from 'svelte';
	import { api, got, type Comb } from '$lib/api/client';
	import { arrows } from '$lib/arrows';
	import { useAsked } from '$lib/asked.svelte';
	import { Mixer, type Hears } from '$lib/audio/mixer.svelte';
	import { player } from '$lib/audio/player.svelte';
	import { clock } from '$lib/audio/timeline';
	import { keys } from '$lib/keys.svelte';
	import Empty from '$lib/parts/Empty.svelte';
	import LineChart from '$lib/charts/LineChart.svelte';
	import { useFlight } from '../flight.svelte';
	import LayerFold from './LayerFold.svelte';

	const SOUND = 'sound:';
	const flight = useFlight();
	const asked = useAsked({ test: '', first: '', second: '', target: '' });
	const tests = $derived(flight.compared);
	const test = $derived(tests.find((one) => one.id === Number(asked.test)) ?? tests[0]);
	const rows = $derived(flight.heardIn(test?.id));
	const first = $derived(rows.find((one) => one.id === Number(asked.first)) ?? rows[0]);
	const second = $derived(
		rows.find((one) => one.id === Number(asked.second) && one !== first) ?? rows.find((one) => one !== first)
	);
	/** A contender, or a sound that somebody is after. */
	const target = $derived(rows.find((one) => one.id === Number(asked.target)));
	const sounds = createQuery(() => ({
		queryKey: ['beds', 'target'],
		queryFn: () => got(api.GET('/api/beds', { params: { query: { kind: 'target' } } }))
	}));
	const sound = $derived(sounds.data?.find((one) => `${SOUND}${one.id}` === asked.target));
	const path = $derived({ flight_id: flight.id, test_id: test?.id ?? 0 });
	const found = createQuery(() => ({
		queryKey: ['blend', flight.id, test?.id, first?.id, second?.id, target?.id, sound?.id],
		enabled: !!test && !!first && !!second,
		retry: false,
		queryFn: () =>
			got(
				api.GET('/api/flights/{flight_id}/together/{test_id}/blend', {
					params: { path, query: { first: first!.id, second: second!.id, target: target?.id, sound: sound?.id } }
				})
			)
	}));
	const tray = createQuery(() => ({
		queryKey: ['tray', flight.id, test?.id, 'as_set'],
		enabled: !!test,
		queryFn: () =>
			got(api.GET('/api/flights/{flight_id}/tray/{test_id}', { params: { path, query: { school: 'as_set' } } }))
	}));
	const mixer = new Mixer();
	let linedUp = $state(false);
	let fold = $state<LayerFold>();
	/** The comb follows the fader when it rests. */
	let rested = $state({ gain_db: 0, inverted: false });
	$effect(() => {
		const now = { gain_db: mixer.gain_db, inverted: mixer.turned };
		const wait = setTimeout(() => (rested = now), 150);
		return () => clearTimeout(wait);
	});
	const comb = createQuery(() => ({
		queryKey: ['comb', flight.id, test?.id, first?.id, second?.id, rested, linedUp],
		enabled: !!test && !!first && !!second && found.data?.lag_s != null,
		placeholderData: (before: Comb | undefined) => before,
		queryFn: () =>
			got(
				api.GET('/api/flights/{flight_id}/together/{test_id}/comb', {
					params: { path, query: { first: first!.id, second: second!.id, ...rested, lined_up: linedUp } }
				})
			)
	}));
	let sides = $state(false);
	const data = $derived(found.data);
	const poured = $derived(
		[first, second].map((one) => tray.data?.takes.find((take) => take.contender_id === one?.id)) as [never, never]
	);
	const HEARS: [Hears, string][] = [
		['first', 'the first alone'],
		['second', 'the second alone'],
		['both', 'both']
	];

	$effect(() => {
		const [one, other] = poured;
		const lag = linedUp ? (data?.lag_s ?? 0) : 0;
		const apart = sides;
		if (one && other) untrack(() => void mixer.load(one, other, lag, apart));
	});

	function play() {
		fold?.pause();
		void mixer.toggle();
	}
	function hear(what: Hears) {
		mixer.hears = what;
		mixer.mix();
	}
	function fade(db: number) {
		mixer.gain_db = Math.min(12, Math.max(-40, Math.round(db * 10) / 10));
		mixer.mix();
	}
	function best() {
		const at = data?.best;
		if (!at) return;
		mixer.turned = at.polarity === 'inverted';
		mixer.hears = 'both';
		linedUp = at.lined_up;
		fade(at.gain_db);
	}

	// What the tray plays would sound beside it.
	onMount(() => {
		player.close();
		const off = keys.on({
			play,
			back: () => mixer.back(),
			answer: () => {
				const at = document.activeElement;
				if (at instanceof HTMLElement && at.matches('button, a, summary')) at.click();
				else best();
			},
			more: () => fade(mixer.gain_db + 1),
			fewer: () => fade(mixer.gain_db - 1)
		});
		keys.onDigit((digit) => {
			const what = HEARS[digit - 1]?.[0];
			if (what) hear(what);
		});
		return () => {
			off();
			keys.onDigit((digit) => player.hearNth(digit));
			mixer.close();
		};
	});
</script>

{#if !test || !first || !second}
	<Empty title="Nothing to blend yet">
		<p>
			Two recordings of one performance are needed: two amplifiers or two microphones, or one dry take played twice.
		</p>
		<a class="btn btn-sm" href="/flights/{flight.id}/takes">To the takes</a>
	</Empty>
{:else}
	<div class="max-w-4xl">
		<h2 class="mb-3">Two sources mixed</h2>
		<div class="flex flex-wrap gap-3 mb-4" {@attach arrows}>
			<label class="flex flex-col text-sm"
				>Test
				<select
					class="select w-52"
					value={String(test.id)}
					onchange={(event) => (asked.test = event.currentTarget.value)}>
					{#each tests as one (one.id)}<option value={String(one.id)}>{one.name}</option>{/each}
				</select></label>
			<label class="flex flex-col text-sm"
				>First
				<select
					class="select w-52"
					value={String(first.id)}
					onchange={(event) => (asked.first = event.currentTarget.value)}>
					{#each rows as one (one.id)}<option value={String(one.id)}>{one.name}</option>{/each}
				</select></label>
			<label class="flex flex-col text-sm"
				>Second
				<select
					class="select w-52"
					value={String(second.id)}
					onchange={(event) => (asked.second = event.currentTarget.value)}>
					{#each rows.filter((one) => one !== first) as one (one.id)}<option value={String(one.id)}>{one.name}</option
						>{/each}
				</select></label>
			<label class="flex flex-col text-sm"
				>Nearest to
				<select
					class="select w-52"
					value={sound || target ? asked.target : ''}
					onchange={(event) => (asked.target = event.currentTarget.value)}>
					<option value="">no target</option>
					{#each rows.filter((one) => one !== first && one !== second) as one (one.id)}<option value={String(one.id)}
							>{one.name}</option
						>{/each}
					{#each sounds.data ?? [] as one (one.id)}<option value="{SOUND}{one.id}">{one.name}</option>{/each}
				</select></label>
		</div>
		<div role="status" class="min-h-20 mb-4">
			{#if found.error}
				<p class="text-error">{found.error.message}</p>
			{:else if data}
				{#each sides ? data.sides : data.said as one, n (n)}
					<p class={n ? '' : 'text-xl font-semibold'}>{one.words}</p>
				{/each}
			{:else}
				<p class="quiet">Looking at both…</p>
			{/if}
		</div>
		<div class="flex flex-wrap gap-4 items-center mb-4">
			<button
				class="btn btn-primary size-24 rounded-box"
				disabled={mixer.loading}
				onclick={play}
				aria-label={mixer.playing ? 'Pause the music' : 'Play the music'}>
				{#if mixer.playing}<Pause size={48} />{:else}<Play size={48} />{/if}
			</button>
			<div class="flex flex-wrap gap-2" role="group" aria-label="What sounds" {@attach arrows}>
				{#each HEARS as [what, label], n (what)}
					<button
						class="btn btn-lg {mixer.hears === what ? 'btn-neutral border-primary border-2' : ''}"
						aria-pressed={mixer.hears === what}
						onclick={() => hear(what)}><span class="figures">{n + 1}</span> {label}</button>
				{/each}
			</div>
			<span class="figures text-xl">{clock(mixer.position)}</span>
		</div>
		<label class="flex items-center gap-4 mb-3">
			<span class="w-40">Level of the second</span>
			<input
				type="range"
				class="range grow"
				min="-40"
				max="12"
				step="0.1"
				value={mixer.gain_db}
				oninput={(event) => fade(Number(event.currentTarget.value))} />
			<span class="figures text-2xl w-28 text-right">{mixer.gain_db.toFixed(1).replace('-', '−')} dB</span>
		</label>
		<div class="flex flex-wrap gap-6 items-center">
			<label class="flex gap-2 items-center">
				<input type="checkbox" class="checkbox" bind:checked={mixer.turned} onchange={() => mixer.mix()} />
				turn its polarity
			</label>
			<label class="flex gap-2 items-center">
				<input type="checkbox" class="checkbox" bind:checked={linedUp} disabled={data?.lag_s == null} />
				line it up
			</label>
			<label class="flex gap-2 items-center">
				<input type="checkbox" class="checkbox" bind:checked={sides} />
				one left, one right
			</label>
			{#if data?.best}<button class="btn btn-primary" onclick={best}>Nearest to the target</button>{/if}
		</div>
		{#if comb.data && data?.lag_s != null && !sides}
			<div class="mt-4">
				<LineChart
					x={comb.data.hz}
					logX
					xLabel="Hz"
					yLabel="dB"
					zero
					depth={24}
					least={12}
					height={200}
					title="What the sum gains and loses, {first.name} with {second.name}"
					curves={[{ name: '', colour: second.colour, y: comb.data.gained_db, strong: true, dash: 'none' }]} />
				<p class="quiet text-sm">What the sum gains and loses against both side by side, at this level.</p>
			</div>
		{/if}
		<p class="quiet text-sm mt-4">
			As recorded, at their own levels. <kbd class="hint">1</kbd> <kbd class="hint">2</kbd> <kbd class="hint">3</kbd>
			what sounds, <kbd class="hint">Space</kbd> play, <kbd class="hint">+</kbd> <kbd class="hint">-</kbd> level by one
			dB{data?.best ? ', ' : '.'}{#if data?.best}<kbd class="hint">Enter</kbd> nearest to the target.{/if}
		</p>
		<LayerFold bind:this={fold} testId={test.id} onplay={() => mixer.pause()} />
	</div>
{/if}
