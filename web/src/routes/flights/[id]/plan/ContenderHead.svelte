<script lang="ts">
	/** A contender of a plan: its name and place, price, knobs, and what differs for it. */
	import type { Contender } from '$lib/api/client';
	import Knob from '$lib/parts/Knob.svelte';
	import NameField from '$lib/parts/NameField.svelte';
	import MoneyField from '$lib/parts/MoneyField.svelte';
	import Token from '$lib/parts/Token.svelte';
	import type { FlightState } from '../flight.svelte';
	import Arrange from './Arrange.svelte';
	import Differences from './Differences.svelte';
	import type { PlanState } from './plan.svelte';
	import ShelfLink from './ShelfLink.svelte';

	type Props = { flight: FlightState; plan: PlanState; contender: Contender; place: number };
	let { flight, plan, contender: one, place: i }: Props = $props();
	const data = $derived(flight.data!);
</script>

<th scope="row" class="text-left py-2 pr-2 font-normal">
	<div class="flex items-center gap-2">
		<Token letter={one.letter} colour={one.colour} />
		<kbd class="hint" title="The key that pours it">{one.number}</kbd>
		<span class="grow"
			><NameField
				value={one.name}
				label="Name of contender {i + 1}"
				strong
				onchange={(name) => flight.changeContender(one.id, { name })} /></span>
		<Arrange
			what="contender"
			name={one.name}
			place={i}
			of={data.contenders.length}
			onmove={(place) => flight.moveContender(one.id, place)}
			onremove={() => flight.removeContender(one.id)} />
	</div>
	<div class="flex items-center gap-x-2 pl-7 text-sm flex-wrap">
		{#if !one.is_bypass}
			<MoneyField
				minor={one.price_minor}
				currency={one.currency}
				decimals={one.decimals}
				label="Price of {one.name}"
				placeholder="price"
				class="cell-input text-right !w-20 !min-w-0"
				onchange={(price_minor) => flight.changeContender(one.id, { price_minor })} />
			<span class="text-xs quiet">{one.currency}</span>
			<ShelfLink {flight} contender={one} />
			{#if one.price_about}<span class="text-xs quiet">{one.price_about}</span>{/if}
		{/if}
		<label class="flex items-center gap-1 quiet">
			<input
				type="checkbox"
				class="checkbox checkbox-xs"
				checked={one.is_bypass}
				onchange={(event) => flight.changeContender(one.id, { is_bypass: event.currentTarget.checked })} />
			bypass
		</label>
	</div>
	{#if one.settings.length}
		<div class="flex flex-wrap gap-1 pl-7 pt-1">
			{#each one.settings as setting (setting.key)}
				<Knob
					{setting}
					of={one.name}
					onset={(text) => flight.changeContender(one.id, { settings: { [setting.key]: text } })} />
			{/each}
		</div>
	{/if}
	<Differences {plan} contender={one} />
</th>
