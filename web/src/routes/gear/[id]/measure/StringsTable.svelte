<script lang="ts">
	/** Pickups by their strings, all held against one of them. */
	import type { StringsHeard } from '$lib/api/client';
	import Table from '$lib/parts/Table.svelte';
	import StringBars from './StringBars.svelte';
	import { heights } from './strings';

	type Props = {
		rows: StringsHeard[];
		gear: number;
		referenceId: number | null;
		onreference: (id: number) => void;
		onremove: (id: number) => unknown;
	};
	let { rows, gear, referenceId, onreference, onremove }: Props = $props();
	const bases = $derived([...new Set(rows.map((row) => row.basis?.words).filter(Boolean))]);
	const signed = (value: number, digits = 1) =>
		`${value > 0 ? '+' : ''}${value.toFixed(digits)}`.replace('-', '−').replace('+0.0', '0.0');
</script>

<Table label="Pickups by their strings">
	<thead>
		<tr>
			<th>Reference</th><th>Pickup</th><th>Heights</th><th>Output</th><th class="text-right">mV</th>
			<th>Balance, strings 6 to 1</th><th>Waver</th><th><span class="sr-only">Remove</span></th>
		</tr>
	</thead>
	<tbody>
		{#each rows as row (row.id)}
			<tr class={row.gear_id === gear ? '' : 'quiet'}>
				<td>
					<input
						class="radio radio-xs"
						type="radio"
						name="reference"
						aria-label="Hold all against {row.gear}, {row.position} {heights(row)}"
						disabled={row.state !== 'read'}
						checked={row.id === referenceId}
						onchange={() => onreference(row.id)} />
				</td>
				<th scope="row" class="font-semibold">
					{row.gear}{row.position ? `, ${row.position}` : ''}
					{#if row.bench}<span class="badge badge-sm">bench</span>{/if}
				</th>
				<td class="whitespace-nowrap figures">{heights(row)}</td>
				{#if row.state === 'waiting'}
					<td colspan="4"><span role="status">being read…</span></td>
				{:else if row.state === 'refused'}
					<td colspan="4"><span class="text-error" role="alert">Refused: {row.refused}</span></td>
				{:else}
					<td>
						{#if row.output_db === null}<span class="quiet">the others are held against it</span>
						{:else}
							<span class="figures font-semibold whitespace-nowrap">{signed(row.output_db)} dB</span>
							<span class="text-xs quiet"
								>{row.band_db === null ? '' : `± ${row.band_db.toFixed(1)}`}
								{bases.length > 1 ? row.basis?.words : ''}</span>
						{/if}
					</td>
					<td class="figures text-right">{row.output_mv?.toFixed(0) ?? ''}</td>
					<td><StringBars levels={row.balance_db} band={row.balance_band_db} /></td>
					<td class="text-sm whitespace-nowrap">{row.waver || 'none'}</td>
				{/if}
				<td>
					<button
						class="btn btn-ghost btn-xs"
						aria-label="Remove {row.gear} {heights(row)}"
						onclick={() => onremove(row.id)}>remove</button>
				</td>
			</tr>
		{/each}
	</tbody>
</Table>
