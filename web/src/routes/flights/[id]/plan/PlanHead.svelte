<script lang="ts">
	/** The tests of a plan: named, moved, taken out, and the sound each of them stands for. */
	import { useMeta } from '$lib/meta';
	import NameField from '$lib/parts/NameField.svelte';
	import type { FlightState } from '../flight.svelte';
	import Arrange from './Arrange.svelte';

	let { flight }: { flight: FlightState } = $props();
	const data = $derived(flight.data!);
	const meta = useMeta();
	let test = $state('');

	async function addTest(event: SubmitEvent) {
		event.preventDefault();
		if (test.trim() && (await flight.addTest(test.trim()))) test = '';
	}
</script>

<thead>
	<tr class="border-b rule align-bottom">
		<th scope="col" class="text-left py-1 pr-2 min-w-80 font-normal quiet text-sm">contender, price</th>
		{#each data.tests as one, i (one.id)}
			<th scope="col" class="text-left px-1 pb-1 min-w-40 font-normal">
				<span class="flex items-center">
					<Arrange
						what="test"
						name={one.name}
						place={i}
						of={data.tests.length}
						onmove={(place) => flight.moveTest(one.id, place)}
						onremove={() => flight.removeTest(one.id)} />
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
					{#each meta.data?.sounds ?? [] as { sound } (sound.key)}<option value={sound.key}>{sound.name}</option>{/each}
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
					maxlength={meta.data?.limits.name} />
				<button class="btn btn-sm">Add</button>
			</form>
		</th>
	</tr>
</thead>
