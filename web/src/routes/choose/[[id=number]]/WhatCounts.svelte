<script lang="ts">
	/** What counts: the money, fit against price, and how much each sound weighs; tried while it moves, then kept. */
	import type { Brief, Need } from '$lib/api/client';
	import type { BriefDraft } from '$lib/brief-draft.svelte';
	import { useMeta } from '$lib/meta';
	import MoneyField from '$lib/parts/MoneyField.svelte';

	let { brief, draft, spendable }: { brief: Brief; draft: BriefDraft; spendable: string } = $props();
	const meta = useMeta();
	const need = $derived(brief.need);
	const attempt = (change: Partial<Need>) => draft.attempt(brief, change);
	const keep = (change: Partial<Need>) => draft.keep(brief, change);
	const withWeight = (key: string, weight: number) => ({
		sounds: (need.sounds ?? []).map((sound) => (sound.key === key ? { ...sound, weight } : sound))
	});
	const buys = $derived(need.buys ?? []);
	const counted = $derived([
		['fit_weight', 'Fit to the sounds'] as const,
		['price_weight', 'Low price'] as const,
		...(Object.keys(need.feel ?? {}).length ? [['feel_weight', 'How it plays, for you'] as const] : []),
		...(need.nice_to_haves?.trim() ? [['nice_weight', 'What would be nice'] as const] : [])
	]);
	type Kind = NonNullable<Need['buys']>[number];
	const withKind = (kind: Kind, wanted: boolean) => (wanted ? [...buys, kind] : buys.filter((one) => one !== kind));
</script>

<h2>What counts</h2>
<p class="text-sm"><a class="underline" href="/brief/{brief.id}">{brief.name}</a>: {spendable} to spend</p>
<label class="flex flex-col text-sm"
	>Budget, {need.currency}
	<MoneyField
		minor={need.budget_minor}
		currency={need.currency ?? 'EUR'}
		decimals={brief.decimals}
		onchange={(budget_minor) => keep({ budget_minor })} />
</label>
<fieldset class="text-sm flex flex-wrap gap-x-4 gap-y-1">
	<legend class="mb-1">Prices that come into question</legend>
	{#each meta.data?.choices.price_kinds ?? [] as kind (kind.key)}
		{@const key = kind.key as Kind}
		<label class="flex items-center gap-2"
			><input
				type="checkbox"
				class="checkbox checkbox-sm"
				checked={buys.includes(key)}
				disabled={buys.length === 1 && buys.includes(key)}
				onchange={(event) => keep({ buys: withKind(key, event.currentTarget.checked) })} />{kind.name}</label>
	{/each}
</fieldset>
{#each counted as [key, label] (key)}
	<label class="flex flex-col text-sm">
		<span class="flex justify-between"><span>{label}</span><span class="figures">{need[key]}</span></span>
		<input
			type="range"
			class="range range-sm w-full"
			min="0"
			max="10"
			step="1"
			value={need[key]}
			oninput={(event) => attempt({ [key]: Number(event.currentTarget.value) })}
			onchange={(event) => keep({ [key]: Number(event.currentTarget.value) })} />
	</label>
{/each}
<h3 class="font-semibold pt-2">Sounds</h3>
{#each need.sounds ?? [] as sound (sound.key)}
	<label class="flex flex-col text-sm">
		<span class="flex justify-between"><span>{sound.name}</span><span class="figures">{sound.weight}</span></span>
		<input
			type="range"
			class="range range-sm w-full"
			min="0"
			max="5"
			step="0.5"
			value={sound.weight}
			oninput={(event) => attempt(withWeight(sound.key, Number(event.currentTarget.value)))}
			onchange={(event) => keep(withWeight(sound.key, Number(event.currentTarget.value)))} />
	</label>
{/each}
