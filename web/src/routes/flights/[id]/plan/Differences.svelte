<script lang="ts">
	/** What differs for a contender besides the compared link, and whether that is meant. */
	import type { Contender } from '$lib/api/client';
	import type { Link } from '$lib/api/plan';
	import type { PlanState } from './plan.svelte';

	let { plan, contender }: { plan: PlanState; contender: Contender } = $props();
	const row = $derived(plan.data?.rows.find((one) => one.contender_id === contender.id));
	const others = $derived(plan.data?.links.filter((link) => !link.compared && link.controls.length) ?? []);
	let chosen = $state('');

	const own = () => {
		const links: Record<string, Link> = {};
		const changed = new Set(row?.differences.map((one) => one.key.split('/')[0]) ?? []);
		for (const link of row?.links ?? []) {
			if (link.compared || !changed.has(link.key)) continue;
			const settings = Object.fromEntries(link.controls.map((control, i) => [control.key, link.positions[i] ?? 0.5]));
			links[link.key] = {
				key: link.key,
				kind: link.kind as Link['kind'],
				gear_id: link.gear_id,
				name: link.name,
				place: link.place as Link['place'],
				on: link.on,
				settings
			};
		}
		return links;
	};
	const wanted = () => row?.differences.filter((one) => one.wanted).map((one) => one.key) ?? [];

	function mean(key: string, meant: boolean) {
		const keys = meant ? [...wanted(), key] : wanted().filter((one) => one !== key);
		void plan.changeRow(contender.id, own(), {}, keys);
	}

	function add(text: string) {
		const [key, control] = chosen.split('|');
		const link = others.find((one) => one.key === key);
		if (link && control) void plan.turnFor(contender.id, link.key, control, text);
	}
</script>

{#if row?.differences.length}
	<ul class="pl-8 text-sm">
		{#each row.differences as one (one.key)}
			<li class="flex gap-2 items-center {one.wanted ? '' : 'text-error'}">
				<span>differs: {one.text}</span>
				<label class="flex gap-1 items-center whitespace-nowrap">
					<input
						type="checkbox"
						class="checkbox checkbox-xs"
						checked={one.wanted}
						onchange={(event) => mean(one.key, event.currentTarget.checked)} />
					is meant
				</label>
			</li>
		{/each}
		<li><button class="btn btn-xs" onclick={() => plan.changeRow(contender.id, {}, {}, [])}>Set as for all</button></li>
	</ul>
{/if}
{#if others.length}
	<details class="pl-8 text-sm">
		<summary class="cursor-pointer quiet">set another knob differently</summary>
		<div class="flex gap-1 py-1">
			<select
				class="select select-xs w-44"
				bind:value={chosen}
				aria-label="Knob to set differently for {contender.name}">
				<option value="">which knob?</option>
				{#each others as link (link.key)}
					{#each link.controls as control (control.key)}
						<option value="{link.key}|{control.key}">{control.name} of {link.name}</option>
					{/each}
				{/each}
			</select>
			<input
				class="input input-xs w-20"
				placeholder="to"
				aria-label="Its position for {contender.name}"
				onchange={(event) => {
					add(event.currentTarget.value);
					event.currentTarget.value = '';
				}} />
		</div>
	</details>
{/if}
