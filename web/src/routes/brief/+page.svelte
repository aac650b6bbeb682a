<script lang="ts">
	/** Brief: what do I need? Every field is kept as it is changed; Ctrl+Z takes it back. */
	import { createQuery } from '@tanstack/svelte-query';
	import { api, got, type Need, type Sound } from '$lib/api/client';
	import { BriefDraft } from '$lib/brief-draft.svelte';
	import { useMeta } from '$lib/meta';
	import { notices } from '$lib/notices.svelte';
	import Empty from '$lib/parts/Empty.svelte';
	import Loading from '$lib/parts/Loading.svelte';
	import NameField from '$lib/parts/NameField.svelte';
	import Frame from './Frame.svelte';
	import SoundCard from './SoundCard.svelte';

	const briefs = createQuery(() => ({ queryKey: ['briefs'], queryFn: () => got(api.GET('/api/briefs')) }));
	const meta = useMeta();
	let chosen = $state<number | null>(null);
	const draft = new BriefDraft();
	const brief = $derived(draft.over(briefs.data?.find((one) => one.id === chosen) ?? briefs.data?.[0]));
	const need = $derived(brief?.need);

	const save = (change: Partial<Need> | { name: string }) => (brief ? draft.keep(brief, change) : undefined);

	async function begin() {
		try {
			const made = await got(api.POST('/api/briefs', { body: { name: 'What I need' } }));
			chosen = made.id;
			await briefs.refetch();
		} catch (error) {
			notices.fail(error);
		}
	}

	const sounds = $derived(need?.sounds ?? []);
	const setSound = (index: number, sound: Sound) =>
		save({ sounds: sounds.map((one, i) => (i === index ? sound : one)) });
	const unused = $derived(
		meta.data?.sounds.filter((one) => !sounds.some((sound) => sound.key === one.sound.key)) ?? []
	);
</script>

<svelte:head><title>Brief · Cata</title></svelte:head>

{#if !briefs.data}
	<Loading error={briefs.error} retry={() => briefs.refetch()} />
{:else if !brief || !need}
	<Empty title="What do you need?">
		<p>
			A brief says which sounds you need, as ranges on the readings, and what you can spend. Contenders are then ranked
			by how well their takes fit it and what they cost.
		</p>
		<button class="btn btn-primary" onclick={begin}>Write a brief</button>
	</Empty>
{:else}
	<div class="flex items-center gap-2 mb-4 flex-wrap">
		<h1 class="grow -ml-1.5 basis-60">
			<NameField value={brief.name} label="Name of the brief" strong onchange={(name) => save({ name })} />
		</h1>
		{#if briefs.data.length > 1}
			<select
				class="select select-sm w-52"
				value={brief.id}
				aria-label="Brief"
				onchange={(event) => (chosen = Number(event.currentTarget.value))}>
				{#each briefs.data as one (one.id)}<option value={one.id}>{one.name}</option>{/each}
			</select>
		{/if}
		<button class="btn btn-sm" onclick={begin}>Another brief</button>
	</div>
	<p class="text-lg mb-5">
		{need.budget_minor == null ? 'No budget given yet' : `${brief.spendable_text} to spend`}
	</p>

	<div class="grid gap-8 lg:grid-cols-[20rem_1fr]">
		<Frame {brief} {need} {save} />
		<section aria-label="Sounds" class="min-w-0">
			<div class="flex items-center gap-2 mb-2">
				<h2 class="grow">Sounds, as target ranges on the readings</h2>
				{#if unused.length}
					<select
						class="select select-sm w-48"
						aria-label="Add a sound"
						value=""
						onchange={(event) => {
							const found = meta.data?.sounds.find((one) => one.sound.key === event.currentTarget.value);
							if (found) void save({ sounds: [...sounds, found.sound] });
							event.currentTarget.value = '';
						}}>
						<option value="">Add a sound…</option>
						{#each unused as one (one.sound.key)}<option value={one.sound.key}>{one.sound.name}</option>{/each}
					</select>
				{/if}
			</div>
			{#each sounds as sound, i (sound.key)}
				<SoundCard
					{sound}
					meta={meta.data}
					onchange={(changed) => setSound(i, changed)}
					onremove={() => save({ sounds: sounds.filter((_, at) => at !== i) })} />
			{:else}<p class="quiet">No sounds yet. Add one: each comes with ranges that you can change.</p>{/each}
			<p class="text-sm"><a class="btn btn-primary btn-sm" href="/choose">See the ranking</a></p>
		</section>
	</div>
{/if}
