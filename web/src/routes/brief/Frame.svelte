<script lang="ts">
	/** The frame of a brief: style, the amplifier's role, money, loudness, weight. */
	import type { Brief, Need } from '$lib/api/client';
	import { useMeta } from '$lib/meta';
	import { fromMinor, toMinor } from '$lib/money';
	import { notices } from '$lib/notices.svelte';

	let { brief, need, save }: { brief: Brief; need: Need; save: (change: Partial<Need>) => unknown } = $props();
	const meta = useMeta();
	const limits = $derived(meta.data?.limits);

	function amount(text: string): number | null | undefined {
		if (!text.trim()) return null;
		const minor = toMinor(text, brief?.decimals ?? 2);
		if (minor === null) notices.say('Write an amount, such as 1150.00.', 'error');
		return minor ?? undefined;
	}
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
		>The amplifier’s role
		<select
			class="select"
			value={need.role}
			onchange={(event) => save({ role: event.currentTarget.value as Need['role'] })}>
			{#each meta.data?.choices.amp_roles ?? [] as one (one.key)}<option value={one.key}>{one.name}</option>{/each}
		</select>
	</label>
	<div class="grid grid-cols-2 gap-3">
		<label class="flex flex-col text-sm"
			>Budget, {need.currency}
			<input
				class="input figures"
				inputmode="decimal"
				placeholder="none"
				value={fromMinor(need.budget_minor, brief.decimals)}
				onchange={(event) => {
					const v = amount(event.currentTarget.value);
					if (v !== undefined) void save({ budget_minor: v });
				}} />
		</label>
		<label class="flex flex-col text-sm"
			>Reserve, {need.currency}
			<input
				class="input figures"
				inputmode="decimal"
				value={fromMinor(need.reserve_minor, brief.decimals)}
				onchange={(event) => {
					const v = amount(event.currentTarget.value);
					if (v !== undefined) void save({ reserve_minor: v ?? 0 });
				}} />
		</label>
	</div>
	<p class="text-sm quiet">
		The reserve is kept back for cable, picks, a bag and strings: what is forgotten is what breaks the budget.
	</p>
	<div class="grid grid-cols-2 gap-3">
		<label class="flex flex-col text-sm"
			>Loudness limit, dB(A)
			<input
				class="input figures"
				type="number"
				min={limits?.loudness_dba.low}
				max={limits?.loudness_dba.high}
				value={need.loudness_limit_dba}
				onchange={(event) =>
					save({
						loudness_limit_dba: event.currentTarget.value ? Number(event.currentTarget.value) : null
					})} />
		</label>
		<label class="flex flex-col text-sm"
			>Heaviest piece, kg
			<input
				class="input figures"
				type="number"
				min={limits?.carry_kg.low}
				max={limits?.carry_kg.high}
				value={need.carry_limit_kg}
				onchange={(event) =>
					save({ carry_limit_kg: event.currentTarget.value ? Number(event.currentTarget.value) : null })} />
		</label>
	</div>
	<label class="flex flex-col text-sm"
		>Own rig<textarea
			class="textarea"
			rows="2"
			value={need.own_rig}
			onchange={(event) => save({ own_rig: event.currentTarget.value })}></textarea
		></label>
	<label class="flex flex-col text-sm"
		>Must have<textarea
			class="textarea"
			rows="2"
			value={need.must_haves}
			onchange={(event) => save({ must_haves: event.currentTarget.value })}></textarea
		></label>
	{#if brief.caution}<p class="text-sm border-l-4 border-error pl-3">{brief.caution}</p>{/if}
</section>
