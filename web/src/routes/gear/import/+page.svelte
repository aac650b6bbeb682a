<script lang="ts">
	/** Reading in a file: what each column is taken for, what would be new or changed, what is wrong, then the import. */
	import { goto } from '$app/navigation';
	import { api, got, queries } from '$lib/api/client';
	import type { ShelfImport } from '$lib/api/plan';
	import { notices } from '$lib/notices.svelte';
	import DropArea from '$lib/parts/DropArea.svelte';
	import FileButton from '$lib/parts/FileButton.svelte';
	import Table from '$lib/parts/Table.svelte';
	import { useMeta } from '$lib/meta';

	const meta = useMeta();
	let content = $state('');
	let filename = $state('');
	let kind = $state('');
	let currency = $state('EUR');
	let on_date = $state('');
	let old_encoding = $state('cp1252');
	let preview = $state<ShelfImport | null>(null);
	let busy = $state(false);
	const takeable = $derived((preview?.new ?? 0) + (preview?.changed ?? 0));
	const COUNTS = [
		['new', 'new'],
		['changed', 'brought up to date'],
		['same', 'as they were'],
		['left_out', 'left out']
	] as const;

	async function base64(file: File): Promise<string> {
		return new Promise((resolve, reject) => {
			const reader = new FileReader();
			reader.onload = () => resolve(String(reader.result).split(',')[1] ?? '');
			reader.onerror = () => reject(new Error('The file cannot be read.'));
			reader.readAsDataURL(file);
		});
	}

	async function take(file: File | undefined) {
		if (!file) return;
		try {
			content = await base64(file);
			filename = file.name;
			preview = null;
			await look();
		} catch (error) {
			notices.fail(error);
		}
	}

	async function look(dry_run = true) {
		if (!content || busy) return;
		busy = true;
		try {
			preview = await got(
				api.POST('/api/gear/import', {
					body: {
						content,
						mapping: preview?.columns.length ? preview.columns.map((column) => column.target) : null,
						kind: (kind || null) as never,
						currency,
						on_date,
						old_encoding: old_encoding as never,
						dry_run
					}
				})
			);
			if (preview.done) {
				await queries.invalidateQueries();
				notices.say(`${preview.new} new, ${preview.changed} changed. Ctrl+Z takes it back.`);
				await goto('/gear');
			}
		} catch (error) {
			notices.fail(error);
		} finally {
			busy = false;
		}
	}

	function map(index: number, target: string) {
		if (!preview) return;
		preview.columns = preview.columns.map((column, i) => (i === index ? { ...column, target } : column));
		void look();
	}
</script>

<svelte:head><title>Read in gear · Cata</title></svelte:head>
<p class="text-sm quiet mb-1"><a class="underline" href="/gear">Gear</a> › read in a file</p>
<h1 class="mb-3">Read in a file</h1>
<DropArea label="Drop a shelf file" class="p-5 mb-4 max-w-4xl" ontaken={(dropped) => take(dropped.files[0])}>
	<FileButton
		text="Choose a CSV or JSON file"
		name="Shelf file"
		kind="btn-sm {preview ? '' : 'btn-primary'}"
		accept=".csv,.tsv,.txt,.json"
		onfiles={(files) => take(files[0])} />
	<span class="quiet ml-2">{filename || 'or drop it here'}</span>
	<p class="text-sm quiet mt-2 max-w-2xl">
		One row an item, with headings. Name and kind are needed; controls are written like “Drive 0-10 = 4.5; Voice
		bright/dark = dark”. Items of the same kind and name are brought up to date, a new price joins its history.
	</p>
</DropArea>
<div class="flex flex-wrap gap-4 mb-4 items-end">
	<label class="flex flex-col text-sm"
		>Kind, where a row does not say
		<select class="select select-sm w-44" bind:value={kind} onchange={() => look()}>
			<option value="">leave such rows out</option>
			{#each meta.data?.choices.gear_kinds ?? [] as one (one)}<option>{one}</option>{/each}
		</select>
	</label>
	<label class="flex flex-col text-sm"
		>Currency, where a price does not say
		<input
			class="input input-sm w-20 uppercase"
			bind:value={currency}
			maxlength="3"
			onchange={() => {
				currency = currency.toUpperCase();
				void look();
			}} />
	</label>
	<label class="flex flex-col text-sm"
		>Day of prices, where the file does not say
		<input class="input input-sm w-44 figures" type="date" bind:value={on_date} onchange={() => look()} />
	</label>
</div>
{#if preview}
	<p class="text-lg mb-2" role="status">
		{#each COUNTS as [key, words] (key)}
			<span class="mr-4 {key === 'left_out' && preview.left_out ? 'text-error' : ''}"
				><strong class="figures">{preview[key]}</strong> {words}</span>
		{/each}
	</p>
	{#if preview.undated}
		<p class="text-sm mb-2">
			Of <span class="figures">{preview.undated}</span>
			{preview.undated === 1 ? 'price' : 'prices'} the file says no day:
			<span class="figures">{preview.undated_day}</span> is taken.
		</p>
	{/if}
	<button class="btn btn-primary mb-4" disabled={busy || takeable === 0} onclick={() => look(false)}>
		{busy ? 'Reading…' : takeable ? `Put ${takeable} on the shelf` : 'Nothing new in this file'}
	</button>
	{#if preview.columns.length}
		<h2 class="mb-1">Columns</h2>
		<p class="text-sm quiet mb-1">
			Written in
			{#if preview.old_encodings.includes(preview.encoding)}
				<select
					class="select select-xs w-28 inline-block"
					bind:value={old_encoding}
					aria-label="Encoding of the file"
					onchange={() => look()}>
					{#each preview.old_encodings as one (one)}<option>{one}</option>{/each}
				</select>{:else}{preview.encoding}{/if}, divided by {preview.separator === ','
				? 'commas'
				: `“${preview.separator}”`}.
		</p>
		<Table look="table table-sm w-auto" outside="mb-4">
			<thead><tr><th>Heading</th><th>Goes to</th><th>First value</th></tr></thead>
			<tbody>
				{#each preview.columns as column, i (i)}
					<tr>
						<td class="font-semibold">{column.header || '(no heading)'}</td>
						<td>
							<select
								class="select select-xs w-56"
								value={column.target}
								aria-label="Where {column.header || `column ${i + 1}`} goes"
								onchange={(event) => map(i, event.currentTarget.value)}>
								{#each preview.targets as target (target)}<option>{target}</option>{/each}
							</select>
						</td>
						<td class="quiet max-w-96 truncate">{column.sample}</td>
					</tr>
				{/each}
			</tbody>
		</Table>
	{/if}
	{#if preview.problems.length}
		<h2 class="mb-1">Doubts</h2>
		<ul class="text-sm mb-4 max-w-4xl">
			{#each preview.problems as problem, i (i)}
				<li class={problem.lost ? 'text-error' : ''}>
					<span class="figures">Row {problem.row}</span>, {problem.column}: {problem.text}
				</li>
			{/each}
			{#if preview.more_problems}<li>and {preview.more_problems} more</li>{/if}
		</ul>
	{/if}
	<h2 class="mb-1">Rows</h2>
	<ul class="text-sm columns-1 md:columns-2 gap-8 max-w-5xl">
		{#each preview.rows as row (row.row)}
			<li class="break-inside-avoid">
				<span class="figures quiet">{row.row}</span>
				{row.name} <span class="quiet">({row.kind})</span>
				<span class={row.fate === 'same' ? 'quiet' : 'font-semibold'}
					>{row.fate === 'changed' ? `changed: ${row.text}` : row.fate}</span>
			</li>
		{/each}
	</ul>
{/if}
