<script lang="ts">
	/** Plan: contenders are rows, tests are columns, each cell is a take. Everything is edited in place. */
	import { createQuery } from '@tanstack/svelte-query';
	import ArrowDown from '@lucide/svelte/icons/arrow-down';
	import ArrowLeft from '@lucide/svelte/icons/arrow-left';
	import ArrowRight from '@lucide/svelte/icons/arrow-right';
	import ArrowUp from '@lucide/svelte/icons/arrow-up';
	import Trash2 from '@lucide/svelte/icons/trash-2';
	import { api, got } from '$lib/api/client';
	import { player } from '$lib/audio/player.svelte';
	import Knob from '$lib/parts/Knob.svelte';
	import NameField from '$lib/parts/NameField.svelte';
	import PriceField from '$lib/parts/PriceField.svelte';
	import Token from '$lib/parts/Token.svelte';
	import Table from '$lib/parts/Table.svelte';
	import { useFlight } from '../flight.svelte';
	import Blocks from './Blocks.svelte';
	import ChainEditor from './ChainEditor.svelte';
	import Differences from './Differences.svelte';
	import OrderPanel from './OrderPanel.svelte';
	import { PlanState } from './plan.svelte';
	import Rules from './Rules.svelte';

	const flight = useFlight();
	const plan = new PlanState(() => flight.id);
	const LINKS = ['pedal', 'pickup', 'guitar', 'amplifier', 'speaker', 'microphone', 'direct box', 'strings', 'cable'];
	const data = $derived(flight.data!);
	const gear = createQuery(() => ({
		queryKey: ['gear-names'],
		queryFn: () => got(api.GET('/api/gear-names'))
	}));
	const meta = createQuery(() => ({
		queryKey: ['meta'],
		queryFn: () => got(api.GET('/api/meta')),
		staleTime: Infinity
	}));
	let contender = $state('');
	let test = $state('');

	async function addContender(event: SubmitEvent) {
		event.preventDefault();
		const name = contender.trim();
		if (!name) return;
		// Asked again: what was put on the shelf a moment ago, or in another tab, counts too.
		const { data: items } = await gear.refetch();
		const item = items?.find((one) => one.name.toLowerCase() === name.toLowerCase());
		const bypass = /^(bypass|no pedal|dry)$/i.test(name);
		if (await flight.addContender(item ? { gear_id: item.id } : { name, is_bypass: bypass })) contender = '';
	}

	async function addTest(event: SubmitEvent) {
		event.preventDefault();
		if (test.trim() && (await flight.addTest(test.trim()))) test = '';
	}
</script>

<div class="mb-3 flex flex-wrap gap-x-6 gap-y-1 items-center">
	<a class="underline underline-offset-2 font-semibold" href="/flights/{flight.id}/{data.next_step}"
		>Next: {data.next_text}</a>
	<label class="flex items-center gap-2 text-sm"
		>What is compared
		<select
			class="select select-sm w-36"
			value={data.link}
			onchange={(event) => flight.change({ link: event.currentTarget.value })}>
			{#if !LINKS.includes(data.link)}<option>{data.link}</option>{/if}
			{#each LINKS as one (one)}<option>{one}</option>{/each}
		</select>
	</label>
	<nav class="flex gap-4 text-sm" aria-label="Parts of the plan">
		{#each [['chain', 'Chain'], ['tests', 'Tests'], ['rules', 'House rules'], ['order', 'Order and time']] as [to, label] (to)}
			<a class="underline underline-offset-2" href="#{to}">{label}</a>
		{/each}
	</nav>
</div>

<Table label="Plan" look="w-full border-collapse">
	<thead>
		<tr class="border-b rule align-bottom">
			<th scope="col" class="text-left py-1 pr-2 min-w-80 font-normal quiet text-sm">contender, price</th>
			{#each data.tests as one, i (one.id)}
				<th scope="col" class="text-left px-1 pb-1 min-w-40 font-normal">
					<span class="flex items-center">
						<button
							class="btn btn-ghost btn-xs btn-square"
							disabled={i === 0}
							onclick={() => flight.moveTest(one.id, i - 1)}
							aria-label="Move {one.name} left"><ArrowLeft size={13} /></button>
						<button
							class="btn btn-ghost btn-xs btn-square"
							disabled={i === data.tests.length - 1}
							onclick={() => flight.moveTest(one.id, i + 1)}
							aria-label="Move {one.name} right"><ArrowRight size={13} /></button>
						<button
							class="btn btn-ghost btn-xs btn-square"
							onclick={() => flight.removeTest(one.id)}
							aria-label="Remove test {one.name}"><Trash2 size={13} /></button>
					</span>
					<NameField
						value={one.name}
						label="Name of test {i + 1}"
						strong
						onchange={(name) => flight.changeTest(one.id, { name })} />
					<select
						class="cell-input text-sm quiet"
						aria-label="Sound that {one.name} stands for"
						value={one.sound}
						onchange={(event) => flight.changeTest(one.id, { sound: event.currentTarget.value })}>
						<option value="">for every sound</option>
						{#each meta.data?.sounds ?? [] as { sound } (sound.key)}<option value={sound.key}>{sound.name}</option
							>{/each}
					</select>
				</th>
			{/each}
			<th scope="col" class="text-left pl-2 pb-1 font-normal">
				<form class="flex gap-1" onsubmit={addTest}>
					<input
						class="input input-sm w-36"
						bind:value={test}
						placeholder="New test"
						aria-label="New test"
						maxlength="120" />
					<button class="btn btn-sm">Add</button>
				</form>
			</th>
		</tr>
	</thead>
	<tbody>
		{#each data.contenders as one, i (one.id)}
			<tr class="border-b rule align-top">
				<th scope="row" class="text-left py-2 pr-2 font-normal">
					<div class="flex items-center gap-2">
						<Token letter={one.letter} colour={one.colour} />
						<span class="grow"
							><NameField
								value={one.name}
								label="Name of contender {i + 1}"
								strong
								onchange={(name) => flight.changeContender(one.id, { name })} /></span>
						<button
							class="btn btn-ghost btn-xs btn-square"
							disabled={i === 0}
							onclick={() => flight.moveContender(one.id, i - 1)}
							aria-label="Move {one.name} up"><ArrowUp size={13} /></button>
						<button
							class="btn btn-ghost btn-xs btn-square"
							disabled={i === data.contenders.length - 1}
							onclick={() => flight.moveContender(one.id, i + 1)}
							aria-label="Move {one.name} down"><ArrowDown size={13} /></button>
						<button
							class="btn btn-ghost btn-xs btn-square"
							onclick={() => flight.removeContender(one.id)}
							aria-label="Remove contender {one.name}"><Trash2 size={13} /></button>
					</div>
					<div class="flex items-center gap-3 pl-8 text-sm flex-wrap">
						{#if !one.is_bypass}
							<PriceField
								minor={one.price_minor}
								currency={one.currency}
								decimals={one.decimals}
								label="Price of {one.name}"
								onchange={(price_minor) => flight.changeContender(one.id, { price_minor })} />
						{/if}
						<label class="flex items-center gap-1 quiet">
							<input
								type="checkbox"
								class="checkbox checkbox-xs"
								checked={one.is_bypass}
								onchange={(event) => flight.changeContender(one.id, { is_bypass: event.currentTarget.checked })} />
							bypass
						</label>
						{#if one.gear_id}<a class="underline quiet" href="/gear/{one.gear_id}">shelf</a>{/if}
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
				{#each data.tests as column (column.id)}
					{@const take = flight.takeAt(one.id, column.id)}
					<td class="px-1 py-2">
						{#if take}
							{@const sounds = player.playing && player.hears(one.id) && player.pours('flight', flight.id, column.id)}
							<button
								class="w-full text-left rounded border-2 px-2 py-1.5 hover:bg-base-200 {sounds
									? 'border-primary'
									: take.worst === 'fault'
										? 'border-error'
										: 'rule'}"
								disabled={take.state !== 'ready'}
								onclick={() => player.pour(flight.id, column.id, one.id, true)}>
								<span class="block text-sm"
									>{take.state === 'waiting'
										? 'being read…'
										: take.state === 'refused'
											? take.refusal
											: sounds
												? 'sounding'
												: 'hear'}
									<span class="sr-only">{one.name}, {column.name}</span></span>
								<span class="block text-xs quiet figures">{take.duration_s.toFixed(1)} s</span>
								{#if take.worst}<span class="block text-xs text-error font-semibold"
										>{take.worst === 'fault' ? 'redo' : 'look at it'}</span
									>{/if}
							</button>
						{:else}
							<span class="block rounded border border-dashed rule px-2 py-3 text-sm quiet text-center">no take</span>
						{/if}
					</td>
				{/each}
				<td></td>
			</tr>
		{/each}
		<tr>
			<td class="py-3">
				<form class="flex gap-1" onsubmit={addContender}>
					<input
						class="input input-sm w-56"
						list="shelf"
						bind:value={contender}
						placeholder="New contender"
						aria-label="New contender"
						maxlength="120" />
					<datalist id="shelf"
						>{#each gear.data ?? [] as item (item.id)}<option value={item.name}>{item.kind}</option>{/each}</datalist>
					<button class="btn btn-sm">Add</button>
				</form>
			</td>
		</tr>
	</tbody>
</Table>

{#if plan.data}
	<section class="mt-8 border-t rule pt-4" aria-labelledby="tests">
		<h2 id="tests" class="mb-2 scroll-mt-4">Tests from sets and blocks</h2>
		<Blocks {plan} tests={data.tests} />
	</section>
	<section class="mt-8 border-t rule pt-4" aria-labelledby="chain">
		<h2 id="chain" class="mb-2 scroll-mt-4">Chain: the same for all but the compared link</h2>
		<ChainEditor {plan} />
	</section>
	<section class="mt-8 border-t rule pt-4" aria-labelledby="order">
		<h2 id="order" class="mb-2 scroll-mt-4">Order and time</h2>
		{#if plan.order}<OrderPanel {plan} flightId={flight.id} />{/if}
	</section>
	<section class="mt-8 border-t rule pt-4" aria-labelledby="rules">
		<h2 id="rules" class="mb-2 scroll-mt-4">House rules</h2>
		<Rules {plan} />
	</section>
{/if}

<div class="grid gap-4 md:grid-cols-2 mt-8 border-t rule pt-4 max-w-5xl">
	<label class="flex flex-col gap-1 text-sm">
		The question this flight answers
		<textarea
			class="textarea w-full"
			rows="2"
			value={data.question}
			onchange={(event) => flight.change({ question: event.currentTarget.value })}></textarea>
	</label>
	<label class="flex flex-col gap-1 text-sm">
		What else is held constant, in your own words
		<textarea
			class="textarea w-full"
			rows="2"
			value={data.held}
			onchange={(event) => flight.change({ held: event.currentTarget.value })}></textarea>
	</label>
</div>
