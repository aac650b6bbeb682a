<script lang="ts">
	/** One target range of a sound; an empty end is open. */
	import type { Meta, Target } from '$lib/api/client';

	let {
		target,
		meta,
		of,
		onchange,
		onremove
	}: {
		target: Target;
		meta: Meta | undefined;
		of: string;
		onchange: (target: Target) => void;
		onremove: () => void;
	} = $props();
	const reading = $derived(meta?.readings.find((one) => one.key === target.reading));
	const part = $derived(reading?.parts.find((one) => one.key === target.part)?.name);
	const label = $derived(`${reading?.name ?? target.reading}${part ? `, ${part}` : ''}`);

	function end(text: string): number | null {
		const value = Number(text.replace(',', '.').replace('−', '-'));
		return text.trim() === '' || !Number.isFinite(value) ? null : value;
	}
</script>

<tr>
	<td>{label} <span class="quiet">{reading?.unit ?? ''}</span></td>
	<td
		><input
			class="cell-input figures !w-20"
			inputmode="decimal"
			placeholder="open"
			aria-label="{of}: {label} from"
			value={target.low ?? ''}
			onchange={(event) => onchange({ ...target, low: end(event.currentTarget.value) })} /></td>
	<td
		><input
			class="cell-input figures !w-20"
			inputmode="decimal"
			placeholder="open"
			aria-label="{of}: {label} to"
			value={target.high ?? ''}
			onchange={(event) => onchange({ ...target, high: end(event.currentTarget.value) })} /></td>
	<td>
		<select
			class="select select-xs w-40"
			aria-label="{of}: what {label} is held against"
			value={target.against ?? ''}
			onchange={(event) => onchange({ ...target, against: event.currentTarget.value as Target['against'] })}>
			<option value="">by itself</option>
			<option value="reference">against the reference</option>
		</select>
	</td>
	<td>
		<select
			class="select select-xs w-16"
			aria-label="{of}: how much {label} counts"
			value={String(target.weight ?? 1)}
			onchange={(event) => onchange({ ...target, weight: Number(event.currentTarget.value) })}>
			{#each ['0', '0.5', '1', '2', '3', '4', '5'] as one (one)}<option>{one}</option>{/each}
		</select>
	</td>
	<td class="text-right"
		><button class="btn btn-ghost btn-xs" onclick={onremove} aria-label="Remove {label} from {of}">remove</button></td>
</tr>
