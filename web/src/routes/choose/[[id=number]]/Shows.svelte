<script lang="ts">
	/** Which test shows which sound: it decides the ranking, so it is said, and corrected for this brief alone. */
	import { api, got, queries, type Choice } from '$lib/api/client';
	import { arrows } from '$lib/arrows';
	import { notices } from '$lib/notices.svelte';
	import { openWhen } from '$lib/open-when';

	type Row = Choice['tests'][number];
	let { brief, sounds, tests }: { brief: number; sounds: Choice['sounds']; tests: Row[] } = $props();
	const BY: Record<Row['by'], string> = {
		brief: 'said here',
		test: 'said in its flight',
		name: 'by its name',
		nobody: 'nobody said'
	};
	const open = $derived(sounds.filter((one) => one.open));
	const asked = $derived(open.length > 0);
	const names = $derived(open.map((one) => one.name.toLowerCase()).join(', '));
	/** Where only one flight is looked at, its name says nothing. */
	const several = $derived(new Set(tests.flatMap((row) => row.flights)).size > 1);
	const of = (row: Row) =>
		!several ? '' : row.flights.length > 1 ? ` (${row.flights.length} flights)` : ` (${row.flights[0] ?? ''})`;
	const shows = (row: Row, key: string) => row.by !== 'nobody' && row.sounds.includes(key);

	async function say(row: Row, chosen: string[] | null) {
		try {
			const body = { test_ids: row.test_ids, sounds: chosen };
			await got(api.PUT('/api/briefs/{brief_id}/shows', { params: { path: { brief_id: brief } }, body }));
		} catch (error) {
			notices.fail(error);
		}
		await queries.invalidateQueries({ queryKey: ['briefs'] });
		await queries.invalidateQueries({ queryKey: ['choice'] });
	}
	const turn = (row: Row, key: string) => {
		const now = sounds.filter((one) => shows(row, one.key)).map((one) => one.key);
		return say(row, now.includes(key) ? now.filter((one) => one !== key) : [...now, key]);
	};
</script>

{#if sounds.length && tests.length}
	<details class="mb-4 border rounded-box px-3 py-2 {asked ? 'border-error' : 'rule'}" {@attach openWhen(asked)}>
		<summary class="cursor-pointer"
			>{asked
				? `Which phrase shows ${names}? Until you say, every phrase without a sound counts.`
				: 'Which phrase shows which sound'}</summary>
		<div class="overflow-x-auto">
			<table class="text-sm mt-2">
				<thead>
					<tr>
						<th scope="col" class="text-left font-normal quiet pr-4">Phrase</th>
						{#each sounds as sound (sound.key)}<th scope="col" class="px-2 font-normal">{sound.name}</th>{/each}
						<th scope="col" class="text-left font-normal quiet pl-4">Why</th>
					</tr>
				</thead>
				<tbody {@attach arrows}>
					{#each tests as row, n (n)}
						<tr>
							<th scope="row" class="text-left font-normal pr-4 py-1"
								>{row.name}<span class="quiet text-xs">{of(row)}</span></th>
							{#each sounds as sound (sound.key)}
								<td class="text-center px-2">
									<input
										type="checkbox"
										class="checkbox checkbox-sm"
										checked={shows(row, sound.key)}
										indeterminate={row.by === 'nobody' && row.sounds.includes(sound.key)}
										aria-label="{row.name}{of(row)} shows {sound.name}"
										onchange={() => turn(row, sound.key)} />
								</td>
							{/each}
							<td class="pl-4 quiet"
								>{BY[row.by]}
								{#if row.by === 'brief'}
									<button
										class="btn btn-xs btn-ghost no-print"
										aria-label="{row.name}{of(row)}: as proposed"
										onclick={() => say(row, null)}>as proposed</button>
								{/if}</td>
						</tr>
					{/each}
				</tbody>
			</table>
		</div>
	</details>
{/if}
