<script lang="ts">
	/** One recording: its setting, how far the reading is, all its numbers, and what was refused. */
	import About from '$lib/parts/About.svelte';
	import { api, got, type Probe } from '$lib/api/client';
	import { notices } from '$lib/notices.svelte';

	let { probe, onremoved }: { probe: Probe; onremoved: () => void } = $props();

	async function remove() {
		try {
			await got(api.DELETE('/api/probes/{probe_id}', { params: { path: { probe_id: probe.id } } }));
			notices.say('Removed. Ctrl+Z brings it back.');
			onremoved();
		} catch (error) {
			notices.fail(error);
		}
	}
</script>

<div class="flex items-start gap-2 py-2 border-b rule">
	<details class="grow min-w-0" data-probe={probe.state}>
		<summary class="cursor-pointer flex flex-wrap items-center gap-x-3 gap-y-1">
			<span class="font-semibold">{probe.setting}</span>
			{#if probe.bench}<span class="badge badge-sm">bench stand-in</span>{/if}
			{#if probe.state === 'waiting'}
				<progress class="progress progress-primary w-32" value={probe.share} max="1" aria-label="Reading"></progress>
				<span class="quiet text-sm" role="status">{probe.what}</span>
			{:else if probe.state === 'refused'}
				<span class="text-error" role="alert">Refused: {probe.refused}</span>
			{:else}
				<span class="quiet text-sm">{probe.figures.length} readings{probe.loop_id ? ', interface taken out' : ''}</span>
			{/if}
		</summary>
		<div class="grid gap-x-8 md:grid-cols-2 mt-2">
			<table class="table table-xs self-start">
				<tbody>
					{#each probe.figures as one, i (i)}
						<tr>
							<th scope="row" class="font-normal"><About name={one.name} about={one.about} /></th>
							<td class="text-right figures whitespace-nowrap font-semibold">{one.text}</td>
							<td class="text-xs quiet"
								>{[one.band, one.grade === 'test signal' ? '' : one.grade, one.doubt].filter(Boolean).join(' · ')}</td>
						</tr>
					{/each}
				</tbody>
			</table>
			<div class="text-sm">
				{#if probe.refusals.length}
					<h3 class="font-semibold">Refused</h3>
					<ul class="mb-2">
						{#each probe.refusals as one, i (i)}<li><span class="quiet">{one.name}:</span> {one.why.words}</li>{/each}
					</ul>
				{/if}
				{#each probe.notes as note, i (i)}<p class="quiet">{note}</p>{/each}
				<p class="quiet">{probe.filename}</p>
			</div>
		</div>
	</details>
	<button class="btn btn-ghost btn-xs" aria-label="Remove {probe.setting}" onclick={remove}>remove</button>
</div>
