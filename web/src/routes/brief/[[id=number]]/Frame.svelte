<script lang="ts">
	/** The frame of a brief: style, the amplifier's role, money, loudness, weight. */
	import type { Brief, Need } from '$lib/api/client';
	import { useMeta } from '$lib/meta';
	import { arrows } from '$lib/arrows';
	import MoneyField from '$lib/parts/MoneyField.svelte';

	let { brief, need, save }: { brief: Brief; need: Need; save: (change: Partial<Need>) => unknown } = $props();
	const meta = useMeta();
	const limits = $derived(meta.data?.limits);
	const MONEY = [
		['budget_minor', 'Budget'],
		['reserve_minor', 'Reserve']
	] as const;
	const TEXTS = [
		['own_rig', 'Own rig'],
		['must_haves', 'Must have, one a line'],
		['nice_to_haves', 'Would be nice, one a line']
	] as const;
	const LINES = [
		['tuning', 'Tuning', 80],
		['gauge', 'String gauge', 40]
	] as const;
	const questions = $derived(meta.data?.questions ?? []);
	const told = $derived(Object.keys(need.schools ?? {}).length);
	function follow(question: string, school: string) {
		const schools = { ...need.schools };
		if (school) schools[question] = school;
		else delete schools[question];
		return save({ schools });
	}
	const KINDS = ['pedal', 'amplifier', 'pickup', 'guitar', 'speaker', 'direct box'] as const;
	const effects = $derived<string[]>(need.effects ?? []);
	const turnEffect = (key: string, wanted: boolean) =>
		save({ effects: (wanted ? [...effects, key] : effects.filter((one) => one !== key)) as Need['effects'] });
	const bounds = $derived([
		['loudness_limit_dba', 'Loudness limit, dB(A)', limits?.loudness_dba],
		['carry_limit_kg', 'Heaviest piece, kg', limits?.carry_kg],
		['board_mm', 'Board for pedals, mm wide', limits?.board_mm]
	] as const);
</script>

<section class="space-y-3" aria-label="Frame">
	<label class="flex flex-col text-sm"
		>Style<textarea
			class="textarea"
			rows="2"
			maxlength={limits?.style}
			value={need.style}
			onchange={(event) => save({ style: event.currentTarget.value })}></textarea
		></label>
	<label class="flex flex-col text-sm"
		>Looking for
		<select
			class="select"
			value={need.wants ?? ''}
			onchange={(event) => save({ wants: (event.currentTarget.value || null) as Need['wants'] })}>
			<option value="">anything, or a whole rig</option>
			{#each KINDS as kind (kind)}<option value={kind}>{kind}</option>{/each}
		</select>
	</label>
	{#if !need.wants || need.wants === 'pedal'}
		<fieldset class="text-sm">
			<legend class="mb-1">A pedal must be</legend>
			<div class="flex flex-wrap gap-x-4 gap-y-1" {@attach arrows}>
				{#each meta.data?.choices.effects ?? [] as one (one.key)}
					<label class="flex items-center gap-2"
						><input
							type="checkbox"
							class="checkbox checkbox-sm"
							checked={effects.includes(one.key)}
							onchange={(event) => turnEffect(one.key, event.currentTarget.checked)} />{one.name}</label>
				{/each}
			</div>
		</fieldset>
	{/if}
	<label class="flex flex-col text-sm"
		>The amplifier’s role
		<select
			class="select"
			value={need.role}
			onchange={(event) => save({ role: event.currentTarget.value as Need['role'] })}>
			{#each meta.data?.choices.amp_roles ?? [] as one (one.key)}<option value={one.key}>{one.name}</option>{/each}
		</select>
	</label>
	<div class="grid grid-cols-2 gap-3">
		{#each MONEY as [key, name] (key)}
			<label class="flex flex-col text-sm"
				>{name}, {need.currency}
				<MoneyField
					minor={need[key]}
					currency={need.currency ?? 'EUR'}
					decimals={brief.decimals}
					onchange={(v) => save({ [key]: key === 'reserve_minor' ? (v ?? 0) : v })} />
			</label>
		{/each}
	</div>
	<p class="text-sm quiet">
		The reserve is kept back for cable, picks, a bag and strings: what is forgotten is what breaks the budget.
	</p>
	<div class="grid grid-cols-2 gap-3" data-part>
		{#each bounds as [key, name, range] (key)}
			<label class="flex flex-col text-sm"
				>{name}
				<input
					class="input figures"
					type="number"
					min={range?.low}
					max={range?.high}
					value={need[key]}
					onchange={(event) => save({ [key]: event.currentTarget.value ? Number(event.currentTarget.value) : null })} />
			</label>
		{/each}
	</div>
	<label class="flex flex-col text-sm" data-part
		>Where it is played
		<select
			class="select"
			value={need.room ?? ''}
			onchange={(event) => save({ room: event.currentTarget.value as Need['room'] })}>
			<option value="">not said</option>
			{#each (meta.data?.choices.rooms ?? []).filter((one) => one.key) as one (one.key)}<option value={one.key}
					>{one.name}</option
				>{/each}
		</select>
	</label>
	<div class="grid grid-cols-2 gap-3">
		<label class="flex flex-col text-sm"
			>Pickup
			<select
				class="select"
				value={need.pickup ?? ''}
				onchange={(event) => save({ pickup: event.currentTarget.value as Need['pickup'] })}>
				<option value="">any</option>
				{#each meta.data?.choices.pickup_types ?? [] as one (one)}<option>{one}</option>{/each}
			</select>
		</label>
		{#each LINES as [key, name, most] (key)}
			<label class="flex flex-col text-sm"
				>{name}
				<input
					class="input"
					maxlength={most}
					value={need[key] ?? ''}
					onchange={(event) => save({ [key]: event.currentTarget.value })} />
			</label>
		{/each}
	</div>
	{#each TEXTS as [key, name], n (key)}
		<label class="flex flex-col text-sm" data-part={n === 0 ? '' : undefined}
			>{name}<textarea
				class="textarea"
				rows="2"
				value={need[key]}
				onchange={(event) => save({ [key]: event.currentTarget.value })}></textarea
			></label>
	{/each}
	{#if need.nice_to_haves?.trim()}
		<label class="flex flex-col text-sm"
			>What would be nice counts <span class="figures">{need.nice_weight}</span>
			<input
				type="range"
				class="range range-xs"
				min="0"
				max="10"
				step="0.5"
				value={need.nice_weight}
				onchange={(event) => save({ nice_weight: Number(event.currentTarget.value) })} />
		</label>
	{/if}
	<details>
		<summary class="cursor-pointer text-sm w-fit"
			>Schools{told ? `: ${told} chosen` : ', where good people disagree'}</summary>
		<p class="text-sm quiet my-2">A flight that stands for this brief follows them where its plan says nothing else.</p>
		{#each questions as question (question.key)}
			{@const chosen = question.schools.find((one) => one.key === need.schools?.[question.key])}
			<label class="flex flex-col text-sm mb-2"
				>{question.name}
				<select
					class="select select-sm"
					value={need.schools?.[question.key] ?? ''}
					onchange={(event) => follow(question.key, event.currentTarget.value)}>
					<option value="">not said</option>
					{#each question.schools as one (one.key)}<option value={one.key}>{one.name}</option>{/each}
				</select>
				{#if chosen}<span class="quiet">{chosen.good_for} {chosen.costs}</span>{/if}
			</label>
		{/each}
	</details>
	{#if brief.caution}<p class="text-sm border-l-4 border-error pl-3">{brief.caution}</p>{/if}
</section>
