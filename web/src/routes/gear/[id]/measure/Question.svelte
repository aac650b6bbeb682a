<script lang="ts">
	/** One of the four questions: the answer, its numbers, its picture, and the playing that proves it. */
	import Play from '@lucide/svelte/icons/play';
	import type { Answered, Probe } from '$lib/api/client';
	import { player } from '$lib/audio/player.svelte';
	import About from '$lib/parts/About.svelte';
	import LineChart from '$lib/charts/LineChart.svelte';
	import LineKey from '$lib/charts/LineKey.svelte';
	import { DASHES } from '$lib/charts/marks';

	let { answer, gear, probes }: { answer: Answered; gear: number; probes: Probe[] } = $props();
	const curves = $derived(answer.picture?.curves ?? []);
	const x = $derived(
		[...new Set(curves.flatMap((one) => one.points.map((point) => point[0] ?? 0)))].sort((a, b) => a - b)
	);
	const heard = $derived(answer.proof.filter((id) => probes.find((probe) => probe.id === id)?.url));
	const poured = $derived(player.pours('gear', gear, answer.key));
	const marks = ['¹', '²', '³', '⁴', '⁵', '⁶'];
	const doubts = $derived([...new Set(answer.figures.map((one) => one.doubt).filter(Boolean))]);
	function along(points: number[][]): (number | null)[] {
		const at = new Map(points.map((point) => [point[0], point[1] ?? null]));
		return x.map((one) => at.get(one) ?? null);
	}
</script>

<article class="border rule rounded-box p-4 min-w-0" data-question={answer.key}>
	<h2 class="text-base font-semibold mb-1">{answer.title}</h2>
	{#if answer.sentence}<p class="text-lg leading-snug mb-2">{answer.sentence}</p>{/if}
	{#if answer.figures.length}
		<dl class="flex flex-wrap gap-x-6 gap-y-1 mb-2">
			{#each answer.figures as one, i (i)}
				<div>
					<dt class="text-sm quiet"><About name={one.name} about={one.about} /></dt>
					<dd class="figures font-semibold">
						{one.text}
						{#if one.band}<span class="quiet text-xs font-normal">{one.band}</span>{/if}
						{#if one.doubt}<span class="text-xs font-normal quiet">{marks[doubts.indexOf(one.doubt)]}</span>{/if}
					</dd>
				</div>
			{/each}
		</dl>
		{#if doubts.length}
			<p class="text-xs quiet mb-2">
				{#each doubts as doubt, i (doubt)}<span class="mr-4">{marks[i]} {doubt}</span>{/each}
			</p>
		{/if}
	{/if}
	{#if curves.length && answer.picture}
		<LineChart
			{x}
			curves={curves.map((one, i) => ({ name: one.name, colour: i, y: along(one.points), strong: i === 0 }))}
			xLabel={answer.picture.x}
			yLabel={answer.picture.y}
			logX={answer.picture.log_x}
			least={answer.picture.least}
			height={180}
			title="{answer.picture.title}: {curves.map((one) => one.name).join('; ')}" />
		<p class="text-sm flex flex-wrap gap-x-4">
			{#each curves as one, i (i)}
				<LineKey name={one.name} colour={i} width={i ? 1.6 : 3.2} dash={DASHES[i]} />
			{/each}
		</p>
	{/if}
	{#if heard.length}
		<button
			class="btn btn-sm mt-2 {poured ? 'btn-primary' : ''}"
			onclick={() => player.pourProof(gear, answer.key, true)}>
			<Play size={16} /> Hear {heard.length > 1 ? 'the two settings' : 'it'}
		</button>
	{/if}
	{#if answer.missing}<p class="mt-2 text-sm">
			<span class="text-warning font-semibold">Next:</span>
			{answer.missing}
		</p>{/if}
</article>
