<script lang="ts">
	/** The frame of a brief: style, the amplifier's role, money, loudness, weight. */
	import type { Brief, Need } from '$lib/api/client';
	import { useMeta } from '$lib/meta';
	import { fromMinor, toMinor } from '$lib/money';
	import { notices } from '$lib/notices.svelte';

	let { brief, need, save }: { brief: Brief; need: Need; save: (change: Partial<Need>) => unknown } = $props();
	const meta = useMeta();
	const limits = $derived(meta.data?.limits);
	const MONEY = [
		['budget_minor', 'Budget'],
		['reserve_minor', 'Reserve']
	] as const;
	const TEXTS = [
		['own_rig', 'Own rig'],
		['must_haves', 'Must have']
	] as const;
	const bounds = $derived([
		['loudness_limit_dba', 'Loudness limit, dB(A)', limits?.loudness_dba],
		['carry_limit_kg', 'Heaviest piece, kg', limits?.carry_kg]
	] as const);

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
		{#each MONEY as [key, name] (key)}
			<label class="flex flex-col text-sm"
				>{name}, {need.currency}
				<input
					class="input figures"
					inputmode="decimal"
					placeholder="none"
					value={fromMinor(need[key], brief.decimals)}
					onchange={(event) => {
						const v = amount(event.currentTarget.value);
						if (v !== undefined) void save({ [key]: key === 'reserve_minor' ? (v ?? 0) : v });
						else event.currentTarget.value = fromMinor(need[key], brief.decimals);
					}} />
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
	{#each TEXTS as [key, name] (key)}
		<label class="flex flex-col text-sm"
			>{name}<textarea
				class="textarea"
				rows="2"
				value={need[key]}
				onchange={(event) => save({ [key]: event.currentTarget.value })}></textarea
			></label>
	{/each}
	{#if brief.caution}<p class="text-sm border-l-4 border-error pl-3">{brief.caution}</p>{/if}
</section>
