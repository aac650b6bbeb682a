<script lang="ts">
	/** One target range of a sound; an empty end is open. */
	import type { Meta, Target, TargetScale } from '$lib/api/client';
	import { notices } from '$lib/notices.svelte';
	import CurveStrip from './CurveStrip.svelte';

	let {
		target,
		meta,
		scale,
		of,
		onchange,
		onremove
	}: {
		target: Target;
		meta: Meta | undefined;
		scale: TargetScale | undefined;
		of: string;
		onchange: (target: Target) => unknown;
		onremove: () => void;
	} = $props();
	const reading = $derived(meta?.readings.find((one) => one.key === target.reading));
	const part = $derived(reading?.parts.find((one) => one.key === target.part)?.name);
	const label = $derived(`${reading?.name ?? target.reading}${part ? `, ${part}` : ''}`);

	/** An end as it was typed; what is no number is said, and the field shows again what holds. */
	function end(which: 'low' | 'high', field: HTMLInputElement) {
		const text = field.value.trim();
		const value = text ? Number(text.replace(',', '.').replace('−', '-')) : null;
		if (value === null || Number.isFinite(value)) return onchange({ ...target, [which]: value });
		notices.say(`“${text}” is no number; leave it empty where the range is open.`, 'error');
		field.value = String(target[which] ?? '');
	}
</script>

<tr>
	<td>
		{label} <span class="quiet">{reading?.unit ?? ''}</span>
		{#if scale}
			<span class="block quiet">{scale.words}</span>
			<CurveStrip {target} {scale} label="{of}: {label}" {onchange} />
		{/if}
	</td>
	<td
		><input
			class="cell-input figures !w-20"
			inputmode="decimal"
			placeholder="open"
			aria-label="{of}: {label} from"
			value={target.low ?? ''}
			onchange={(event) => end('low', event.currentTarget)} /></td>
	<td
		><input
			class="cell-input figures !w-20"
			inputmode="decimal"
			placeholder="open"
			aria-label="{of}: {label} to"
			value={target.high ?? ''}
			onchange={(event) => end('high', event.currentTarget)} /></td>
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
