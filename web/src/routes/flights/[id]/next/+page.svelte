<script lang="ts">
	/** The next take, readable from two metres and worked with one key: what to change, every knob, record, done. */
	import { page } from '$app/state';
	import { onMount } from 'svelte';
	import { keys } from '$lib/keys.svelte';
	import { notices } from '$lib/notices.svelte';
	import { recorder } from '$lib/audio/recorder.svelte';
	import Knob from '$lib/parts/Knob.svelte';
	import Loading from '$lib/parts/Loading.svelte';
	import Token from '$lib/parts/Token.svelte';
	import { useFlight } from '../flight.svelte';
	import { PlanState } from '../plan/plan.svelte';
	import RecorderBar from './RecorderBar.svelte';

	const flight = useFlight();
	const plan = new PlanState(() => flight.id);
	const steps = $derived(plan.order?.steps ?? []);
	let shown = $state<number | null>(null);
	const wished = Number(page.url.searchParams.get('take')) || null;
	const open = $derived(steps.find((step) => step.state !== 'done'));
	const step = $derived(steps.find((one) => one.planned_id === (shown ?? wished ?? open?.planned_id)) ?? open);
	const at = $derived(step ? steps.indexOf(step) : -1);
	/** The take that was played last in this sitting: only after it is the room set up as the order thinks. */
	let last = $state<number | null>(null);
	const fresh = $derived(step !== undefined && (at === 0 || steps[at - 1]?.planned_id !== last));
	const missing = $derived(steps.filter((one) => one.state !== 'done' || one.take_id === null).length);

	async function done() {
		if (!step) return;
		if (recorder.recording) await finish();
		else if (step.state !== 'done') await plan.mark(step.planned_id, 'done');
		last = step.planned_id;
		const next = steps.slice(at + 1).find((one) => one.state !== 'done') ?? steps.find((one) => one.state !== 'done');
		shown = next?.planned_id ?? null;
	}

	async function redo() {
		const before = recorder.recording ? step : steps[at - 1];
		if (recorder.recording) {
			recorder.stop();
			notices.say('Thrown away. The take is still to do.');
			return;
		}
		if (!before) return;
		await plan.mark(before.planned_id, 'redo');
		shown = before.planned_id;
	}

	async function finish() {
		if (!step) return;
		const body = recorder.stop();
		if (!body) return notices.say('That was stopped before it began; nothing was kept.');
		const name = `${step.contender} - ${step.test}${step.anchor ? ` anchor ${step.anchor}` : ''}.wav`;
		try {
			await recorder.send(flight.id, name, step.planned_id, body);
			notices.say(`Take ${step.number} is safe.`);
		} catch (error) {
			notices.fail(error);
		}
	}

	async function record() {
		if (!step) return;
		try {
			if (recorder.recording) {
				await finish();
				last = step.planned_id;
				const next = steps.slice(at + 1).find((one) => one.state !== 'done');
				shown = next?.planned_id ?? null;
			} else {
				shown = step.planned_id;
				if (!recorder.ready) await recorder.open();
				await recorder.start(step.bpm);
			}
		} catch (error) {
			notices.fail(error);
		}
	}

	onMount(() => {
		const off = keys.on({
			takeDone: () => void done(),
			takeRedo: () => void redo(),
			record: () => void record(),
			playSlate: () => step && void recorder.slate(step.number)
		});
		return () => {
			off();
			if (recorder.recording) recorder.stop();
			recorder.close();
		};
	});
</script>

<svelte:window
	onbeforeunload={(event) => {
		if (recorder.recording || recorder.unsent.length || recorder.sending) event.preventDefault();
	}} />

{#if !plan.order}
	<Loading error={plan.orderQuery.error} retry={() => plan.orderQuery.refetch()} />
{:else if !plan.order.ordered}
	<p>There is no order yet. <a class="underline" href="/flights/{flight.id}/plan#order">Order the takes</a> first.</p>
{:else if !step}
	<p class="text-4xl font-semibold my-8">All {steps.length} takes are done.</p>
	<p class="flex gap-2">
		<a class="btn btn-primary" href="/flights/{flight.id}/match">See whether they match</a>
		<a class="btn" href="/flights/{flight.id}/sheet">Take sheet</a>
	</p>
{:else}
	<div class="flex flex-wrap items-center gap-x-6 gap-y-2 mb-2">
		<span class="text-7xl font-bold figures leading-none" aria-label="Take {step.number}">{step.number}</span>
		<div class="grow">
			<p class="text-4xl font-semibold flex items-center gap-3 flex-wrap">
				<Token letter={step.letter} colour={step.colour} size="l" />
				{step.contender}
			</p>
			<p class="text-3xl">
				{step.test}{#if step.anchor}<span class="quiet"> · anchor {step.anchor}</span>{/if}
			</p>
		</div>
		<p class="text-xl text-right">
			<span class="figures">{at + 1} of {steps.length}</span><br />
			<span class="quiet" role="status">{missing ? `${missing} still to record` : 'all recorded'}</span>
		</p>
	</div>
	{#if step.take_id !== null}
		<p class="text-xl font-semibold mb-2 {step.state === 'redo' ? 'text-error' : ''}">
			{step.state === 'redo'
				? `To be done again${step.why && !step.why.startsWith('marked') ? `: ${step.why}` : ''}.`
				: 'Recorded already.'} What is recorded now takes its place; the take before is set aside.
		</p>
	{/if}
	{#if fresh}
		<p class="text-lg quiet mt-3">Set up{at > 0 ? ' anew: it does not follow on the take before' : ''}</p>
		<ul class="text-3xl font-semibold mb-3 grid gap-1" aria-label="What to set up">
			{#each step.set_up as part, i (i)}<li>{part}</li>{/each}
		</ul>
	{:else if step.changes.length}
		<ul class="text-3xl font-semibold my-3 grid gap-1" aria-label="What to change">
			{#each step.changes as change, i (i)}<li>{change}</li>{/each}
		</ul>
	{:else}<p class="text-3xl my-3">Change nothing.</p>{/if}
	{#each step.cautions as caution, i (i)}
		<p class="text-xl text-error border-l-4 border-error pl-3 my-1">{caution.words}</p>
	{/each}
	<div class="flex flex-wrap gap-3 my-4" aria-label="Knobs for this take" role="group">
		{#each step.knobs as knob (knob.key)}
			<div
				class="rounded-box p-1 flex flex-col items-center {knob.turned && !fresh
					? 'border-2 border-primary'
					: 'border-2 border-transparent'}">
				<span class="text-xs quiet max-w-28 truncate">{knob.link}</span>
				<div class="scale-up"><Knob of={knob.link} setting={knob} /></div>
			</div>
		{/each}
	</div>
	<p class="text-lg mb-3">
		<strong>{step.phrase.replace(/-/g, ' ')}</strong> at <span class="figures">{step.bpm}</span> bpm ·
		{step.conditions.join(' · ')}
	</p>
	<div class="flex flex-wrap gap-2 items-center">
		<button class="btn btn-lg {recorder.recording ? 'btn-error' : 'btn-primary'}" onclick={record}>
			{recorder.recording ? 'Stop and keep' : 'Record'} <kbd class="hint">{keys.of('record')[0]}</kbd>
		</button>
		<button class="btn btn-lg" onclick={done}>Done, next <kbd class="hint">{keys.of('takeDone')[0]}</kbd></button>
		<button class="btn btn-lg" onclick={redo}
			>{recorder.recording ? 'Throw away' : 'Redo the one before'}
			<kbd class="hint">{keys.of('takeRedo')[0]}</kbd></button>
		<button class="btn btn-lg btn-ghost" onclick={() => recorder.slate(step.number)}
			>Slate <kbd class="hint">{keys.of('playSlate')[0]}</kbd></button>
	</div>
	<RecorderBar />
	{#if step.take_id !== null}
		<details class="mt-5 text-sm">
			<summary class="cursor-pointer">It was set otherwise? Write down what was really used</summary>
			<div class="flex flex-wrap gap-2 mt-2">
				{#each step.knobs as knob (knob.key)}
					<label class="flex flex-col"
						>{knob.name}
						<input
							class="input input-sm w-24 figures"
							placeholder={knob.text}
							value={step.used[knob.key] ?? ''}
							onchange={(event) =>
								plan.correct(step.planned_id, { ...step.used, [knob.key]: event.currentTarget.value })} />
					</label>
				{/each}
			</div>
		</details>
	{/if}
{/if}

<style>
	.scale-up {
		zoom: 1.7;
	}
</style>
