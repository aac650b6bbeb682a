<script lang="ts">
	/** House rules: a school for each question on which good people disagree, with its reason and its side effect. */
	import type { PlanState } from './plan.svelte';

	let { plan }: { plan: PlanState } = $props();
</script>

<dl class="grid gap-x-8 gap-y-3 md:grid-cols-2 max-w-6xl">
	{#each plan.data?.rules ?? [] as rule (rule.key)}
		{@const school = rule.schools.find((one) => one.key === rule.chosen)}
		<div class="grid grid-cols-[11rem_1fr] gap-x-3 items-start">
			<dt class="text-sm pt-1">
				{rule.name}{#if rule.is_default}<span class="quiet block text-xs">Cata’s default</span>{/if}
			</dt>
			<dd class="text-sm">
				<select
					class="select select-sm w-full"
					value={rule.chosen}
					aria-label={rule.name}
					onchange={(event) => plan.rule(rule.key, event.currentTarget.value)}>
					{#each rule.schools as one (one.key)}<option value={one.key}>{one.name}</option>{/each}
				</select>
				<span class="block mt-0.5">{school?.good_for} <span class="quiet">But: {school?.costs}</span></span>
			</dd>
		</div>
	{/each}
</dl>
