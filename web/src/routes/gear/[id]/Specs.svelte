<script lang="ts">
	/** The specification of an item, field by field of its kind. */
	import type { Gear } from '$lib/api/client';
	import { arrows } from '$lib/arrows';
	import type { Change } from './item';

	let { gear, change }: { gear: Gear; change: Change } = $props();

	function specify(key: string, value: string | boolean) {
		const specs = Object.fromEntries(
			(gear.specs ?? []).filter((one) => one.value !== null).map((one) => [one.key, one.value!])
		);
		return change({ specs: { ...specs, [key]: value } });
	}
</script>

<section aria-labelledby="specs">
	<h2 id="specs" class="mb-2">Specification</h2>
	<div class="grid grid-cols-[auto_1fr] gap-x-4 gap-y-0.5 items-center text-sm max-w-md" {@attach arrows}>
		{#each gear.specs as spec (spec.key)}
			<label for="spec-{spec.key}" class="quiet">{spec.name}</label>
			{#if spec.type === 'choice'}
				<select
					id="spec-{spec.key}"
					class="cell-input"
					value={spec.value ?? ''}
					onchange={(event) => specify(spec.key, event.currentTarget.value)}>
					<option value="">not known</option>
					{#each spec.choices as one (one)}<option>{one}</option>{/each}
				</select>
			{:else if spec.type === 'flag'}
				<select
					id="spec-{spec.key}"
					class="cell-input"
					value={spec.value === null ? '' : spec.value ? 'yes' : 'no'}
					onchange={(event) => specify(spec.key, event.currentTarget.value)}>
					<option value="">not known</option>
					<option>yes</option>
					<option>no</option>
				</select>
			{:else}
				<input
					id="spec-{spec.key}"
					class="cell-input {spec.type === 'text' ? '' : 'figures'}"
					value={spec.text}
					placeholder={spec.unit}
					onchange={(event) => specify(spec.key, event.currentTarget.value)} />
			{/if}
		{/each}
	</div>
</section>
