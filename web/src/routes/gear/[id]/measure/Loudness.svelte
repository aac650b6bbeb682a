<script lang="ts">
	/** How loud an amplifier gets: watts, speaker and distance; how it sounds is another matter. */
	import { createQuery } from '@tanstack/svelte-query';
	import { api, got } from '$lib/api/client';

	let { gear }: { gear: number } = $props();
	let distance = $state(2);
	let sensitivity = $state<number | null>(null);
	const found = createQuery(() => ({
		queryKey: ['loudness', gear, distance, sensitivity],
		placeholderData: (last: unknown) => last as never,
		queryFn: () =>
			got(
				api.GET('/api/gear/{gear_id}/loudness', {
					params: {
						path: { gear_id: gear },
						query: { distance_m: distance, sensitivity_db: sensitivity ?? undefined }
					}
				})
			)
	}));
	const within = (text: string, low: number, high: number) => Math.min(high, Math.max(low, Number(text) || low));
</script>

<section aria-labelledby="loud" class="mb-8 max-w-3xl">
	<h2 id="loud" class="mb-1">How loud it gets</h2>
	{#if found.data?.missing}
		<p class="quiet">Not known: {found.data.missing}. <a class="underline" href="/gear/{gear}">Specification</a></p>
	{:else if found.data}
		<div class="flex flex-wrap gap-4 mb-2 items-end">
			<label class="flex flex-col text-sm"
				>Distance, m
				<input
					class="input input-sm w-24"
					type="number"
					min="0.3"
					max="100"
					step="0.5"
					value={distance}
					onchange={(event) => (distance = within(event.currentTarget.value, 0.3, 100))} />
			</label>
			<label class="flex flex-col text-sm"
				>Speaker, dB at 1 W and 1 m
				<input
					class="input input-sm w-24"
					type="number"
					min="60"
					max="115"
					step="0.5"
					value={found.data.sensitivity_db}
					onchange={(event) => (sensitivity = within(event.currentTarget.value, 60, 115))} />
			</label>
			{#if found.data.assumed}<span class="text-sm quiet">98 dB assumed: note the speaker’s own</span>{/if}
		</div>
		<table class="table table-sm max-w-2xl">
			<thead
				><tr><th>Power</th><th class="text-right">Level</th><th>Against full</th><th>What that means</th></tr></thead>
			<tbody>
				{#each found.data.steps as step (step.watts)}
					<tr>
						<th scope="row">{step.name === 'full' ? `full, ${step.watts} W` : step.name}</th>
						<td class="figures text-right font-semibold whitespace-nowrap">{step.level_db.toFixed(0)} dB</td>
						<td class="figures whitespace-nowrap"
							>{step.change_db === 0 ? '' : `${step.change_db.toFixed(1).replace('-', '−')} dB`}</td>
						<td class="text-sm">{step.words}</td>
					</tr>
				{/each}
			</tbody>
		</table>
		<p class="text-sm mt-1">
			<span class="text-warning font-semibold">Hearing:</span>
			{found.data.caution}
		</p>
	{/if}
</section>
