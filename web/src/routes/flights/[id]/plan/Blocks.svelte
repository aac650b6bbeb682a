<script lang="ts">
	/** Tests from ready sets and building blocks. */
	import type { Test } from '$lib/api/client';
	import { useMeta } from '$lib/meta';
	import type { PlanState } from './plan.svelte';

	let { plan, tests }: { plan: PlanState; tests: Test[] } = $props();
	const data = $derived(plan.data!);
	let set = $state('');
	let block = $state('');
	let role = $state('gain');
	let positions = $state(5);
	const meta = useMeta();
	const chosenSet = $derived(data.sets.find((one) => one.key === set) ?? data.sets[0]);
	const chosenBlock = $derived(data.blocks.find((one) => one.key === block) ?? data.blocks[0]);
</script>

<div class="grid gap-4 md:grid-cols-2 max-w-5xl">
	<form
		onsubmit={(event) => {
			event.preventDefault();
			if (chosenSet) void plan.addSet(chosenSet.key);
		}}>
		<label class="flex flex-col text-sm"
			>A ready set
			<select class="select select-sm w-full" value={chosenSet?.key} onchange={(e) => (set = e.currentTarget.value)}>
				{#each data.sets as one (one.key)}<option value={one.key}>{one.name} ({one.tests} tests)</option>{/each}
			</select>
		</label>
		<p class="text-sm quiet my-1">{chosenSet?.about}</p>
		<button class="btn btn-sm">Add this set</button>
	</form>
	<form
		onsubmit={(event) => {
			event.preventDefault();
			if (chosenBlock) void plan.addBlock(chosenBlock.key, { role, positions });
		}}>
		<label class="flex flex-col text-sm"
			>A building block
			<select
				class="select select-sm w-full"
				value={chosenBlock?.key}
				onchange={(e) => (block = e.currentTarget.value)}>
				{#each data.blocks as one (one.key)}<option value={one.key}>{one.name}</option>{/each}
			</select>
		</label>
		<p class="text-sm quiet my-1">{chosenBlock?.about}</p>
		<div class="flex gap-2 items-end">
			{#if chosenBlock?.key === 'sweep'}
				<label class="flex flex-col text-sm"
					>Knob
					<select class="select select-sm w-28" bind:value={role}>
						{#each meta.data?.choices.swept ?? [] as one (one)}<option>{one}</option>{/each}
					</select>
				</label>
				<label class="flex flex-col text-sm"
					>Positions
					<input
						class="input input-sm w-20"
						type="number"
						min="2"
						max={meta.data?.choices.sweep_positions}
						bind:value={positions} />
				</label>
			{/if}
			<button class="btn btn-sm">Add this block</button>
		</div>
	</form>
</div>
{#if data.tests.length}
	<ul class="text-sm mt-3 grid gap-x-6 gap-y-0.5 sm:grid-cols-2 max-w-5xl" aria-label="What each test asks for">
		{#each data.tests as test (test.test_id)}
			{#if test.text || test.no_answer.length}
				<li>
					<span class="quiet">{tests.find((one) => one.id === test.test_id)?.name}:</span>
					{test.text}
					{#if test.no_answer.length}<span class="text-error">: no such knob on {test.no_answer.join(', ')}</span>{/if}
				</li>
			{/if}
		{/each}
	</ul>
{/if}
