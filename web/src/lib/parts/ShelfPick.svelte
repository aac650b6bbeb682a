<script lang="ts">
	/** An item of the shelf of one kind, whose specification fills in a calculator; nothing where there is none. */
	import { createQuery } from '@tanstack/svelte-query';
	import { api, got } from '$lib/api/client';

	let { kind, value, onchange }: { kind: string; value?: number; onchange: (id?: number) => void } = $props();
	const names = createQuery(() => ({
		queryKey: ['gear-names', kind],
		queryFn: () => got(api.GET('/api/gear-names', { params: { query: { kind } } }))
	}));
</script>

{#if names.data?.length}
	<label class="flex flex-col text-sm"
		>From the shelf: {kind}
		<select
			class="select select-sm w-52"
			value={value ?? ''}
			onchange={(event) => onchange(Number(event.currentTarget.value) || undefined)}>
			<option value="">none, typed below</option>
			{#each names.data as one (one.id)}<option value={one.id}>{one.name}</option>{/each}
		</select>
	</label>
{/if}
