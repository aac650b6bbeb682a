<script lang="ts">
	/** A sound that somebody is after: a recording of it beside the takes, who is nearest, and what would bring each there. */
	import { createQuery } from '@tanstack/svelte-query';
	import Play from '@lucide/svelte/icons/play';
	import { api, got, type Bed } from '$lib/api/client';
	import { arrows } from '$lib/arrows';
	import { player } from '$lib/audio/player.svelte';
	import { notices } from '$lib/notices.svelte';
	import FileButton from '$lib/parts/FileButton.svelte';
	import { address, send } from '$lib/upload';
	import { REGIONS } from '$lib/regions';
	import { useFlight } from '../flight.svelte';

	const flight = useFlight();
	let open = $state(false);
	let busy = $state(false);
	let testId = $state(0);
	let targetId = $state(0);
	const tests = $derived(flight.compared);
	const test = $derived(tests.find((one) => one.id === testId) ?? tests[0]);
	const targets = createQuery(() => ({
		queryKey: ['beds', 'target'],
		enabled: open,
		queryFn: () => got(api.GET('/api/beds', { params: { query: { kind: 'target' } } }))
	}));
	const target = $derived(targets.data?.find((one) => one.id === targetId) ?? targets.data?.[0]);
	const found = createQuery(() => ({
		queryKey: ['aim', flight.id, test?.id, target?.id],
		enabled: open && !!test && !!target,
		queryFn: () =>
			got(
				api.GET('/api/flights/{flight_id}/together/{test_id}/target/{bed_id}', {
					params: { path: { flight_id: flight.id, test_id: test!.id, bed_id: target!.id } }
				})
			)
	}));
	const signed = (db: number) => {
		const whole = Math.round(db);
		return `${whole > 0 ? '+' : whole < 0 ? '−' : ''}${Math.abs(whole)}`;
	};

	async function add(files: File[]) {
		const file = files[0];
		if (!file || busy) return;
		busy = true;
		try {
			const bed = JSON.parse(await send(address('/api/beds', file, { kind: 'target' }), file).done) as Bed;
			await targets.refetch();
			targetId = bed.id;
		} catch (error) {
			notices.fail(error);
		} finally {
			busy = false;
		}
	}

	async function remove(bed: number) {
		try {
			await got(api.DELETE('/api/beds/{bed_id}', { params: { path: { bed_id: bed } } }));
			notices.say('Removed. Ctrl+Z brings it back.');
			if (player.manner.target?.bed === bed) await player.asRecorded();
			await targets.refetch();
		} catch (error) {
			notices.fail(error);
		}
	}
</script>

{#if test}
	<details class="mt-3 no-print" bind:open>
		<summary class="cursor-pointer w-fit text-lg font-semibold">A sound you are after</summary>
		<div class="flex flex-wrap gap-3 my-3 items-end" {@attach arrows}>
			{#if target}
				<label class="flex flex-col text-sm"
					>The sound
					<select
						class="select w-56"
						value={target.id}
						onchange={(event) => (targetId = Number(event.currentTarget.value))}>
						{#each targets.data ?? [] as one (one.id)}<option value={one.id}>{one.name}</option>{/each}
					</select></label>
				<label class="flex flex-col text-sm"
					>Held against
					<select
						class="select w-56"
						value={test.id}
						onchange={(event) => (testId = Number(event.currentTarget.value))}>
						{#each tests as one (one.id)}<option value={one.id}>{one.name}</option>{/each}
					</select></label>
				<button class="btn" onclick={() => player.pourWithTarget(flight.id, test.id, target.id)}>
					<Play size={16} /> Hear it with them</button>
			{/if}
			<FileButton
				text={busy ? 'Reading…' : 'Add a recording of it'}
				name="Add a recording of it"
				kind=""
				onfiles={add} />
			{#if target}<button class="btn btn-ghost btn-sm" onclick={() => remove(target.id)}>remove this sound</button>{/if}
		</div>
		{#if targets.error ?? found.error}
			<p class="text-error" role="alert">{(targets.error ?? found.error)?.message}</p>
		{:else if targets.data && !target}
			<p class="quiet">
				Bring a recording of the sound: the guitar alone, best with the phrase of a test. Then it is told who is nearest
				and what would bring each nearer.
			</p>
		{:else if !found.data}
			<p class="quiet" role="status">Holding takes against it…</p>
		{:else}
			<p class="text-lg" role="status">{found.data.said.words}</p>
			{#if found.data.contenders.length}
				<ul class="space-y-3 mt-3">
					{#each found.data.contenders as one (one.contender_id)}
						<li>
							<p class="flex flex-wrap gap-x-2 items-baseline">
								<span class="font-semibold">{one.name}</span>
								<span class="quiet figures">{one.apart_db.toFixed(1)} dB apart:</span>
								{#each REGIONS as [key, name] (key)}
									{#if one.regions_db[key] !== undefined}<span class="figures text-sm whitespace-nowrap"
											><span class="quiet">{name}</span> {signed(one.regions_db[key])}</span
										>{/if}
								{/each}
							</p>
							{#each one.said as said, n (n)}<p class="text-sm {n ? 'quiet' : ''}">{said.words}</p>{/each}
						</li>
					{/each}
				</ul>
			{/if}
		{/if}
	</details>
{/if}
