<script lang="ts">
	/** The brief as a document: what is needed, in words. */
	import type { Brief, Need, SoundScale } from '$lib/api/client';
	import { useMeta } from '$lib/meta';

	let { brief, need, scales }: { brief: Brief; need: Need; scales: SoundScale[] } = $props();
	const meta = useMeta();
	const role = $derived(meta.data?.choices.amp_roles.find((one) => one.key === need.role)?.name ?? need.role);
	const facts = $derived(
		(
			[
				['Style', need.style],
				['The amplifier’s role', role],
				['To spend', brief.spendable_text],
				['Loudness limit', need.loudness_limit_dba == null ? '' : `${need.loudness_limit_dba} dB(A)`],
				['Heaviest piece', need.carry_limit_kg == null ? '' : `${need.carry_limit_kg} kg`],
				['Board for pedals', need.board_mm == null ? '' : `${need.board_mm} mm wide`],
				['Own rig', need.own_rig],
				['Must have', need.must_haves],
				['Would be nice', need.nice_to_haves ?? ''],
				['Pickup', need.pickup ?? ''],
				['Tuning', need.tuning ?? ''],
				['String gauge', need.gauge ?? ''],
				['Where it is played', meta.data?.choices.rooms.find((one) => need.room && one.key === need.room)?.name ?? '']
			] as const
		).filter(([, value]) => value)
	);
	const nameOf = (key: string, part: string) => {
		const reading = meta.data?.readings.find((one) => one.key === key);
		return reading?.parts.find((one) => one.key === part)?.name ?? reading?.name ?? key;
	};
</script>

<div class="only-print">
	<h1 class="mb-2">{brief.name}</h1>
	<dl class="grid grid-cols-[auto_1fr] gap-x-4 mb-4">
		{#each facts as [name, value] (name)}<dt class="quiet">{name}</dt>
			<dd>{value}</dd>{/each}
	</dl>
	{#each need.sounds ?? [] as sound (sound.key)}
		{@const scale = scales.find((one) => one.key === sound.key)}
		<h2>{sound.name}</h2>
		<p class="text-sm">counts {sound.weight}{sound.must ? ', must be there in each of its tests' : ''}</p>
		<ul class="mb-3">
			{#each sound.targets ?? [] as target, at (at)}
				<li>{nameOf(target.reading, target.part ?? '')}: {scale?.targets[at]?.words ?? ''}</li>
			{/each}
		</ul>
	{/each}
</div>
