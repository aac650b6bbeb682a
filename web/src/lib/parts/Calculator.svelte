<script lang="ts">
	/** One calculator: what it asks, filled from items of the shelf and from what is usual, and what comes out at once. */
	import { createQuery } from '@tanstack/svelte-query';
	import RotateCcw from '@lucide/svelte/icons/rotate-ccw';
	import { api, got } from '$lib/api/client';
	import type { components } from '$lib/api/schema';
	import LineChart from '$lib/charts/LineChart.svelte';
	import LineKey from '$lib/charts/LineKey.svelte';
	import { DASHES } from '$lib/charts/marks';
	import Loading from './Loading.svelte';
	import ShelfPick from './ShelfPick.svelte';

	type Calculator = components['schemas']['CalculatorView'];
	let { calculator, gear }: { calculator: Calculator; gear?: number } = $props();

	let typed = $state<Record<string, string>>({});
	let picked = $state<Record<string, number | undefined>>({});
	const items = $derived([gear, ...Object.values(picked)].filter((one) => one !== undefined));
	const worked = createQuery(() => ({
		queryKey: ['workshop', calculator.key, { ...typed }, [...items]],
		placeholderData: (last: unknown) => last as never,
		retry: false,
		queryFn: () =>
			got(
				api.POST('/api/workshop/{key}', {
					params: { path: { key: calculator.key } },
					body: { typed: { ...typed }, gear_ids: [...items] }
				})
			)
	}));
	const used = $derived(Object.fromEntries((worked.data?.used ?? []).map((one) => [one.key, one])));
	const curves = $derived(Object.entries(worked.data?.answer?.curves ?? {}));
	/** What a field shows: what was typed stays as it was typed. */
	const shown = (key: string) => typed[key] ?? used[key]?.text ?? '';
	/** A slider is worked out as it moves; its number is the one last worked with. */
	const number = (key: string) => Number(typed[key] ?? used[key]?.value ?? 0);
	const from = (key: string) =>
		({ typed: '', usual: used[key]?.text ? 'usual' : '' })[used[key]?.source ?? 'usual'] ?? `from ${used[key]?.source}`;

	function forget(key: string) {
		delete typed[key];
	}
</script>

<p class="quiet mb-3 max-w-3xl">{calculator.about}</p>
{#if gear === undefined && calculator.kinds.length}
	<div class="flex flex-wrap gap-x-4 gap-y-2 mb-3">
		{#each calculator.kinds as kind (kind)}
			<ShelfPick {kind} value={picked[kind]} onchange={(id) => (picked[kind] = id)} />
		{/each}
	</div>
{/if}

<div class="flex flex-wrap gap-x-6 gap-y-3 mb-4 items-start max-w-5xl">
	{#each calculator.questions as question (question.key)}
		{@const id = `${calculator.key}-${question.key}`}
		<div class="flex flex-col text-sm min-w-36">
			<label for={id}>{question.name}{question.slide ? `: ${shown(question.key)}` : ''}</label>
			<div class="flex items-center gap-1">
				{#if question.type === 'choice'}
					<select
						{id}
						class="select select-sm"
						value={used[question.key]?.value ?? ''}
						onchange={(event) => (typed[question.key] = event.currentTarget.value)}>
						{#each question.choices as one (one)}<option>{one}</option>{/each}
					</select>
				{:else if question.slide}
					<input
						{id}
						class="range range-xs range-primary w-52 my-2"
						type="range"
						min={question.low}
						max={question.high}
						step={question.slide}
						value={number(question.key)}
						aria-valuetext={shown(question.key)}
						oninput={(event) => (typed[question.key] = `${event.currentTarget.value} ${question.unit}`.trim())} />
				{:else}
					<input
						{id}
						class="input input-sm w-36 figures"
						value={shown(question.key)}
						placeholder={question.optional ? 'none' : `? ${question.unit}`}
						onchange={(event) => (typed[question.key] = event.currentTarget.value)} />
				{/if}
				{#if question.key in typed}
					<button
						class="btn btn-ghost btn-xs btn-square"
						aria-label="{question.name} as it was"
						onclick={() => forget(question.key)}><RotateCcw size={13} /></button>
				{/if}
			</div>
			<span class="text-xs quiet min-h-4">{from(question.key)}</span>
		</div>
	{/each}
</div>

{#if worked.error}
	<p class="text-error font-semibold" role="alert">{worked.error.message}</p>
{:else if !worked.data}
	<Loading error={null} />
{:else if worked.data.lacking.length}
	<p class="quiet" role="status">
		Still wanted: {worked.data.lacking.join(' and ')}.
		{#if gear !== undefined}Type it here, or note it in the <a class="underline" href="/gear/{gear}">specification</a
			>.{/if}
	</p>
{:else if worked.data.answer}
	{@const answer = worked.data.answer}
	<p class="text-xl font-semibold mb-2 max-w-4xl" role="status">{answer.sentence}</p>
	{#if answer.caution}
		<p class="text-sm mb-2 max-w-3xl"><span class="text-warning font-semibold">Caution:</span> {answer.caution}</p>
	{/if}
	<div class="flex flex-col lg:flex-row gap-x-10 gap-y-4 items-start">
		<table class="table table-sm w-auto shrink-0">
			<tbody>
				{#each answer.lines as line (line.name)}
					<tr>
						<th scope="row" class="font-normal text-sm">{line.name}</th>
						<td class="figures text-right font-semibold text-lg whitespace-nowrap">{line.text}</td>
						<td class="text-sm quiet">{line.words}</td>
					</tr>
				{/each}
			</tbody>
		</table>
		{#if curves.length}
			<div class="grow basis-80 min-w-0 w-full max-w-3xl">
				<LineChart
					x={curves[0]![1].map((point) => point[0] ?? 0)}
					curves={curves.map(([name, points], index) => ({
						name,
						colour: index,
						y: points.map((point) => point[1] ?? null),
						strong: index === 0
					}))}
					xLabel="Hz"
					yLabel="dB"
					logX
					height={200}
					title="{calculator.name}: {curves.map(([name]) => name).join(', ')}" />
				<p class="text-sm flex flex-wrap gap-x-4">
					{#each curves as [name], index (name)}<LineKey
							{name}
							colour={index}
							width={index ? 1.6 : 3.2}
							dash={DASHES[index]} />{/each}
				</p>
			</div>
		{/if}
	</div>
	{#if answer.basis}<p class="text-xs quiet mt-2">{answer.basis}</p>{/if}
{/if}
