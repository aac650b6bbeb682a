<script lang="ts">
	/** Which test stands for which sound: it decides the ranking, so it is said, and asked for where nobody said it. */
	import { openWhen } from '$lib/open-when';
	import { arrows } from '$lib/arrows';
	import type { Choice, Test } from '$lib/api/client';

	type Props = {
		sounds: NonNullable<Choice['sounds']>;
		tests: Test[];
		onstand: (test: number, sound: string) => unknown;
	};
	let { sounds, tests, onstand }: Props = $props();
	const open = $derived(sounds.filter((one) => !one.given));
	const asked = $derived(open.length > 0);
</script>

{#if sounds.length && tests.length}
	<details class="mb-4 border rounded-box px-3 py-2 {open.length ? 'border-error' : 'rule'}" {@attach openWhen(asked)}>
		<summary class="cursor-pointer"
			>{open.length
				? `No test stands for ${open.map((one) => one.name.toLowerCase()).join(', ')}: of the others the one counts that suits a contender best`
				: 'Which test stands for which sound'}</summary>
		<table class="text-sm mt-2">
			<tbody {@attach arrows}>
				{#each sounds as one (one.key)}
					<tr>
						<th scope="row" class="text-left font-normal pr-4 py-1">{one.name}</th>
						<td class="pr-3 {one.given ? '' : 'quiet'}"
							>{one.tests.join(one.given ? ', ' : ' or ') || 'no test is left'}</td>
						<td class="flex flex-wrap gap-1 py-0.5 no-print">
							{#if one.proposed_id}
								<button class="btn btn-xs btn-primary" onclick={() => onstand(one.proposed_id!, one.key)}
									>{one.proposed} stands for it</button>
							{/if}
							<select
								class="select select-xs w-44"
								aria-label="Test that stands for {one.name}"
								value=""
								onchange={(event) => {
									const test = Number(event.currentTarget.value);
									event.currentTarget.value = '';
									if (test) onstand(test, one.key);
								}}>
								<option value="">add a test…</option>
								{#each tests.filter((test) => test.sound !== one.key) as test (test.id)}
									<option value={test.id}>{test.name}</option>
								{/each}
							</select>
							{#if one.given}
								{#each one.test_ids as test, i (test)}
									<button
										class="btn btn-xs btn-ghost"
										aria-label="{one.tests[i]} no longer stands for {one.name}"
										onclick={() => onstand(test, '')}>not {one.tests[i]}</button>
								{/each}
							{/if}
						</td>
					</tr>
				{/each}
			</tbody>
		</table>
	</details>
{/if}
