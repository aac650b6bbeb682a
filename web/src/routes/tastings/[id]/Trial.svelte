<script lang="ts">
	/** One trial: glasses by number, the music goes on through all of them, and what sounds can be the answer. */
	import Pause from '@lucide/svelte/icons/pause';
	import Play from '@lucide/svelte/icons/play';
	import { createQuery } from '@tanstack/svelte-query';
	import { onMount, untrack } from 'svelte';
	import { api, got, queries, type Trial } from '$lib/api/client';
	import { Blind } from '$lib/audio/blind.svelte';
	import { player } from '$lib/audio/player.svelte';
	import { clock } from '$lib/audio/timeline';
	import { keys } from '$lib/keys.svelte';
	import { notices } from '$lib/notices.svelte';
	import Loading from '$lib/parts/Loading.svelte';
	import Points from './Points.svelte';
	import Words from './Words.svelte';

	let { tasting, taster, name, leave }: { tasting: number; taster: number; name: string; leave: () => void } = $props();
	let busy = $state(false);
	const path = $derived({ tasting_id: tasting, taster_id: taster });
	const key = $derived(['tasting', tasting, 'trial', taster]);
	const trial = createQuery(() => ({
		queryKey: key,
		refetchOnWindowFocus: false,
		// An answer on its way brings the next trial itself: looked for meanwhile, it would stand there before keys are taken.
		enabled: !busy,
		queryFn: () => got(api.GET('/api/tastings/{tasting_id}/tasters/{taster_id}/trial', { params: { path } }))
	}));
	const blind = new Blind();
	const data = $derived(trial.data);
	let points = $state<Record<string, number>>({});
	let notes = $state<Record<string, string>>({});
	/** Where we are; only another place pours anew, whatever else was heard of it meanwhile. */
	const place = $derived(data?.kind ? `${data.round}/${data.number}` : '');

	/** The glass without a number: X, or the open reference. */
	const unknown = $derived(data?.glasses.find((glass) => !/^\d+$/.test(glass.label))?.label ?? '');
	const numbers = $derived((data?.glasses ?? []).map((one) => one.label).filter((label) => label !== unknown));
	const chosen = $derived(numbers.includes(blind.heard ?? '') ? blind.heard : null);
	const rated = $derived(numbers.every((label) => points[label] !== undefined));
	const QUESTIONS: Record<string, string> = {
		identify: 'X is one of the two. Which?',
		prefer: 'Which do you like more?',
		rate: 'How near does each come to the reference?',
		notes: 'What does each sound like?'
	};
	const words = $derived(
		data?.kind === 'identify' ? `X is ${chosen ?? '…'}` : data?.kind === 'prefer' ? `${chosen ?? '…'} is better` : ''
	);
	const complete = $derived(
		data?.kind === 'rate' ? rated : data?.kind === 'notes' ? true : chosen !== null && !blind.loading
	);

	$effect(() => {
		if (!place) return;
		untrack(() => {
			points = {};
			notes = {};
			void blind.pour(data?.glasses ?? []);
		});
	});

	async function send(body: Record<string, unknown>) {
		if (busy || !data?.kind) return;
		busy = true;
		try {
			const said = { round: data.round, number: data.number, enough: false, ...body };
			const next = await got(
				api.POST('/api/tastings/{tasting_id}/tasters/{taster_id}/answers', { params: { path }, body: said })
			);
			await show(next);
		} catch (error) {
			notices.fail(error);
			await trial.refetch();
		} finally {
			busy = false;
		}
	}

	async function show(next: Trial) {
		// A look that was asked for before this answer would put the trial back, and pour it again.
		await queries.cancelQueries({ queryKey: key, exact: true });
		queries.setQueryData(key, next);
		if (!next.kind) blind.close();
	}

	function answer() {
		if (!complete) return;
		if (data?.kind === 'rate') void send({ points });
		else if (data?.kind === 'notes') void send({ notes });
		else void send({ glass: chosen });
	}

	async function back() {
		if (busy || !data?.back) return;
		busy = true;
		try {
			const url = '/api/tastings/{tasting_id}/tasters/{taster_id}/answers/last';
			await show(await got(api.DELETE(url, { params: { path } })));
			notices.say('The last answer is taken back.');
		} catch (error) {
			notices.fail(error);
		} finally {
			busy = false;
		}
	}

	const move = (by: number) => {
		if (data?.kind === 'rate' && chosen) points[chosen] = Math.min(100, Math.max(0, (points[chosen] ?? 50) + by));
	};

	/** Enter presses what has the focus; where nothing has it, what sounds is the answer. */
	function enter() {
		const at = document.activeElement;
		if (at instanceof HTMLButtonElement || at instanceof HTMLAnchorElement) at.click();
		else answer();
	}

	onMount(() => {
		const nothing = () => {};
		const off = keys.on({
			play: () => void blind.toggle(),
			next: () => blind.step(1),
			previous: () => blind.step(-1),
			bypass: () => unknown && blind.hear(unknown),
			loop: () => blind.toggleLoop(),
			loopStart: () => blind.markLoop('start'),
			loopEnd: () => blind.markLoop('end'),
			back: () => blind.back(),
			school: nothing,
			test: nothing,
			tone: nothing,
			bed: nothing,
			answer: enter,
			neither: () => data?.kind === 'prefer' && void send({ glass: '' }),
			takeBack: () => void back(),
			more: () => move(5),
			fewer: () => move(-5)
		});
		keys.onDigit((digit) => blind.hear(String(digit)));
		return () => {
			off();
			keys.onDigit((digit) => player.hearNth(digit));
			blind.close();
		};
	});
</script>

{#if !data}
	<Loading error={trial.error} retry={() => trial.refetch()} />
{:else if !data.kind}
	<h1 class="mb-2">That is all, {name}</h1>
	<p class="mb-4 max-w-xl">
		Every answer is kept. Nobody sees what was in the glasses before the reveal: let the others taste first.
	</p>
	<button class="btn btn-primary" onclick={leave}>Back to the table</button>
	{#if data.back}<button class="btn btn-ghost" onclick={back}>Take the last answer back</button>{/if}
{:else}
	<p class="quiet figures" role="status">
		{name} · {data.rounds > 1 ? `round ${data.round} of ${data.rounds}, ` : ''}{data.kind === 'notes'
			? 'notes'
			: `trial ${data.number} of ${data.of}`}
	</p>
	<h1 class="text-3xl sm:text-4xl mb-4">{QUESTIONS[data.kind]}</h1>
	<div class="flex flex-wrap gap-3 mb-4 items-stretch" role="group" aria-label="Glasses">
		<button
			class="btn btn-primary size-28 md:size-36 rounded-box"
			disabled={blind.loading}
			onclick={() => blind.toggle()}
			aria-label={blind.playing ? 'Pause the music' : 'Play the music'}>
			{#if blind.playing}<Pause size={48} />{:else}<Play size={48} />{/if}
		</button>
		{#each data.glasses as glass (glass.label)}
			{@const sounds = blind.heard === glass.label}
			<button
				class="rounded-box border-4 min-w-28 h-28 md:min-w-36 md:h-36 px-4 font-bold figures {glass.label ===
				'reference'
					? 'text-2xl'
					: 'text-6xl md:text-7xl'} {sounds ? 'border-primary bg-base-200' : 'rule hover:bg-base-200'}"
				aria-pressed={sounds}
				disabled={blind.loading}
				onclick={() => blind.hear(glass.label)}>{glass.label}</button>
		{/each}
	</div>
	{#if data.kind === 'rate'}
		<Points labels={numbers} bind:points hear={(label) => blind.hear(label)} heard={blind.heard} />
	{:else if data.kind === 'notes'}
		<Words labels={numbers} bind:notes hear={(label) => blind.hear(label)} />
	{/if}
	<div class="flex flex-wrap gap-3 items-center mt-4">
		<button class="btn btn-primary btn-lg" disabled={busy || !complete} onclick={answer}>{words || 'Done'}</button>
		{#if data.kind === 'prefer'}
			<button class="btn btn-lg" disabled={busy} onclick={() => send({ glass: '' })}>Neither</button>
		{/if}
		<span class="grow"></span>
		<button class="btn btn-ghost btn-sm" disabled={busy || !data.back} onclick={back}>Take the last answer back</button>
		{#if data.kind === 'identify' || data.kind === 'prefer'}
			<button class="btn btn-ghost btn-sm" disabled={busy} onclick={() => send({ enough: true })}
				>Enough of this round</button>
		{/if}
		<button class="btn btn-ghost btn-sm" onclick={leave}>Pause the tasting</button>
	</div>
	<p class="quiet text-sm mt-6">
		<span class="figures">{clock(blind.position)}</span> · all glasses are at the same place in the music.
		<kbd class="hint">1</kbd> … hear, {#if unknown}<kbd class="hint">0</kbd> {unknown},{/if}
		<kbd class="hint">←</kbd> <kbd class="hint">→</kbd> step, <kbd class="hint">Space</kbd> play,
		<kbd class="hint">L</kbd> loop, {#if data.kind === 'prefer'}<kbd class="hint">E</kbd> neither,{/if}
		{#if data.kind === 'rate'}<kbd class="hint">+</kbd> <kbd class="hint">-</kbd> points,{/if}
		<kbd class="hint">Enter</kbd>
		{data.kind === 'rate' || data.kind === 'notes' ? 'done' : 'what sounds is the answer'},
		<kbd class="hint">Backspace</kbd> take back.
	</p>
{/if}
