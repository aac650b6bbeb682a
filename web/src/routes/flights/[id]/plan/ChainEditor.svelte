<script lang="ts">
	/** What the flight is played through: links in the order of the signal, each with its knobs as they are held. */
	import ChevronRight from '@lucide/svelte/icons/chevron-right';
	import X from '@lucide/svelte/icons/x';
	import { createQuery } from '@tanstack/svelte-query';
	import { api, got } from '$lib/api/client';
	import { arrows } from '$lib/arrows';
	import type { Link, LinkView } from '$lib/api/plan';
	import { useMeta } from '$lib/meta';
	import Knob from '$lib/parts/Knob.svelte';
	import type { PlanState } from './plan.svelte';

	let { plan }: { plan: PlanState } = $props();
	const data = $derived(plan.data!);
	const gear = createQuery(() => ({ queryKey: ['gear-names'], queryFn: () => got(api.GET('/api/gear-names')) }));
	const meta = useMeta();
	const choices = $derived(meta.data?.choices);
	let kind = $state<LinkView['kind']>('pedal');

	const conditions = $derived(data.chain.conditions!);

	async function choose(link: LinkView, name: string) {
		// Who types faster than the shelf comes means an item of it all the same.
		const names = gear.data ?? (await gear.refetch()).data;
		const item = names?.find((one) => one.kind === link.kind && one.name === name);
		void plan.changeLink(link.key, { gear_id: item?.id ?? null, name, settings: {} });
	}

	function add() {
		const taken = new Set(plan.links().map((link) => link.key));
		let key: string = kind.replace(' ', '-');
		for (let n = 2; taken.has(key); n++) key = `${kind.replace(' ', '-')}-${n}`;
		void plan.addLink({ key, kind, gear_id: null, name: '', place: 'front', on: true, settings: {} } as Link);
	}

	const shared = (text: string) => Math.min(10, Math.max(0, Number(text.replace(',', '.')) || 0)) / 10;
</script>

<ol class="flex flex-wrap items-stretch gap-y-3" aria-label="Chain, in the order of the signal">
	{#each data.links as link, i (link.key)}
		<li class="flex items-center">
			{#if i > 0}<ChevronRight size={18} class="quiet shrink-0" aria-hidden="true" />{/if}
			<div
				class="border rounded-box px-2 py-2 h-full min-w-40 {link.compared
					? 'border-primary border-2'
					: 'rule'} {link.on ? '' : 'opacity-70'}"
				role="group"
				aria-label="{link.kind}{link.compared ? ', compared' : ''}"
				{@attach arrows}>
				<p class="text-xs flex items-center gap-2">
					<span class="grow {link.compared ? 'font-semibold text-primary' : 'quiet'}"
						>{link.kind}{link.compared ? ': compared' : ''}</span>
					{#if !link.compared}
						<button
							class="btn btn-ghost btn-xs btn-square"
							onclick={() => plan.removeLink(link.key)}
							aria-label="Take {link.name || link.kind} out of the chain"><X size={13} /></button>
					{/if}
				</p>
				{#if link.compared}
					<p class="text-sm">each contender in turn</p>
				{:else}
					<input
						class="cell-input text-sm font-semibold"
						list="shelf-{link.kind}"
						value={link.name}
						placeholder="which {link.kind}?"
						aria-label="Which {link.kind}"
						onchange={(event) => choose(link, event.currentTarget.value.trim())} />
				{/if}
				{#if link.kind === 'pedal'}
					<select
						class="cell-input text-xs"
						aria-label="Place of {link.compared ? 'the compared pedal' : link.name || 'the new pedal'}"
						value={link.place}
						onchange={(event) => plan.changeLink(link.key, { place: event.currentTarget.value as Link['place'] })}>
						{#each choices?.places ?? [] as place (place.key)}<option value={place.key}>{place.name}</option>{/each}
					</select>
					{#if !link.compared}
						<label class="text-xs flex gap-1 items-center px-1.5">
							<input
								type="checkbox"
								class="checkbox checkbox-xs"
								checked={link.on}
								onchange={(event) => plan.changeLink(link.key, { on: event.currentTarget.checked })} />
							on
						</label>
					{/if}
				{/if}
				{#if !link.compared && link.controls.length}
					<div class="flex flex-wrap gap-1 mt-1">
						{#each link.controls as control, n (control.key)}
							<Knob
								of={link.name || link.kind}
								setting={{
									key: control.key,
									name: control.name,
									text: link.texts[n] ?? '',
									position: link.positions[n] ?? 0.5,
									scale: control.scale ?? '0-10',
									labels: control.labels ?? []
								}}
								onset={(text) => plan.turn(link.key, control.key, text)} />
						{/each}
					</div>
				{/if}
			</div>
		</li>
	{/each}
	<li class="flex items-center pl-3 gap-1">
		<select class="select select-sm w-36" bind:value={kind} aria-label="Kind of the new link">
			{#each choices?.gear_kinds ?? [] as one (one)}<option>{one}</option>{/each}
		</select>
		<button class="btn btn-sm" onclick={add}>Add to the chain</button>
	</li>
</ol>
{#each choices?.gear_kinds ?? [] as one (one)}
	<datalist id="shelf-{one}"
		>{#each gear.data?.filter((item) => item.kind === one) ?? [] as item (item.id)}<option value={item.name}></option
			>{/each}</datalist>
{/each}

<div class="flex flex-wrap gap-x-5 gap-y-2 mt-4 text-sm items-end" {@attach arrows}>
	<label class="flex flex-col"
		>Pickup position
		<select
			class="select select-sm w-44"
			value={conditions.pickup}
			onchange={(event) => plan.conditions({ pickup: event.currentTarget.value as never })}>
			{#each choices?.pickups ?? [] as one (one)}<option>{one}</option>{/each}
		</select>
	</label>
	<label class="flex flex-col"
		>Guitar volume
		<input
			class="input input-sm w-20 figures"
			value={+((conditions.guitar_volume ?? 1) * 10).toFixed(1)}
			onchange={(event) => plan.conditions({ guitar_volume: shared(event.currentTarget.value) })} />
	</label>
	<label class="flex flex-col"
		>Guitar tone
		<input
			class="input input-sm w-20 figures"
			value={+((conditions.guitar_tone ?? 1) * 10).toFixed(1)}
			onchange={(event) => plan.conditions({ guitar_tone: shared(event.currentTarget.value) })} />
	</label>
	<label class="flex flex-col"
		>Strings
		<input
			class="input input-sm w-32"
			placeholder="10–46, new"
			value={conditions.strings}
			onchange={(event) => plan.conditions({ strings: event.currentTarget.value.trim() })} />
	</label>
	<label class="flex flex-col"
		>Tuning
		<input
			class="input input-sm w-32"
			value={conditions.tuning}
			onchange={(event) => plan.conditions({ tuning: event.currentTarget.value.trim() })} />
	</label>
	<label class="flex flex-col"
		>Place of picking
		<select
			class="select select-sm w-52"
			value={conditions.picking}
			onchange={(event) => plan.conditions({ picking: event.currentTarget.value as never })}>
			{#each choices?.picking ?? [] as one (one)}<option>{one}</option>{/each}
		</select>
	</label>
	<label class="flex flex-col"
		>Power switch
		<input
			class="input input-sm w-28"
			placeholder="as it is"
			value={conditions.power}
			onchange={(event) => plan.conditions({ power: event.currentTarget.value.trim() })} />
	</label>
</div>
{#if data.problems.length || data.missing.length}
	<ul class="mt-3 text-sm grid gap-1" aria-label="What the chain lacks">
		{#each data.problems as problem, i (i)}<li class="text-error">{problem.words}</li>{/each}
		{#if data.missing.length}<li class="quiet">Not written down yet: {data.missing.join(', ')}.</li>{/if}
	</ul>
{/if}
