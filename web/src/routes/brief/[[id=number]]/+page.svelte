<script lang="ts">
	/** Brief: what do I need? Every field is kept as it is changed; Ctrl+Z takes it back. */
	import { createQuery } from '@tanstack/svelte-query';
	import { api, got, queries, type Need, type Sound, type SoundScale } from '$lib/api/client';
	import { goto } from '$app/navigation';
	import { BriefDraft } from '$lib/brief-draft.svelte';
	import { useMeta } from '$lib/meta';
	import { notices } from '$lib/notices.svelte';
	import Customers from '$lib/parts/Customers.svelte';
	import Empty from '$lib/parts/Empty.svelte';
	import Loading from '$lib/parts/Loading.svelte';
	import NameField from '$lib/parts/NameField.svelte';
	import { arrows } from '$lib/arrows';
	import NoSuchBrief from '$lib/parts/NoSuchBrief.svelte';
	import TakeOut from '$lib/parts/TakeOut.svelte';
	import { useWhose } from '$lib/whose.svelte';
	import Frame from './Frame.svelte';
	import OnPaper from './OnPaper.svelte';
	import SoundCard from './SoundCard.svelte';

	const whose = useWhose('/brief');
	const meta = useMeta();
	const draft = new BriefDraft();
	const brief = $derived(draft.over(whose.brief));
	const briefs = $derived(whose.briefs.data ?? []);
	const need = $derived(brief?.need);

	const save = (change: Partial<Need> | { name: string }) => (brief ? draft.keep(brief, change) : undefined);

	async function begin() {
		try {
			const made = await got(api.POST('/api/briefs', { body: { name: 'What I need' } }));
			await queries.invalidateQueries({ queryKey: ['briefs'] });
			await goto(`/brief/${made.id}`);
		} catch (error) {
			notices.fail(error);
		}
	}

	async function remove() {
		if (!brief) return;
		try {
			await got(api.DELETE('/api/briefs/{brief_id}', { params: { path: { brief_id: brief.id } } }));
			await goto('/brief');
			notices.say('Removed. Ctrl+Z brings it back.');
			await queries.invalidateQueries();
		} catch (error) {
			notices.fail(error);
		}
	}

	const scales = createQuery(() => ({
		queryKey: ['scales', brief?.id, need?.sounds],
		enabled: !!brief,
		placeholderData: (before: SoundScale[] | undefined) => before,
		queryFn: () => got(api.GET('/api/briefs/{brief_id}/scales', { params: { path: { brief_id: brief!.id } } }))
	}));
	const scaleOf = (sound: Sound) => {
		const found = scales.data?.find((one) => one.key === sound.key);
		return found?.targets.length === (sound.targets ?? []).length ? found : undefined;
	};
	const sounds = $derived(need?.sounds ?? []);
	const setSound = (index: number, sound: Sound) =>
		save({ sounds: sounds.map((one, i) => (i === index ? sound : one)) });
	const unused = $derived(
		meta.data?.sounds.filter((one) => !sounds.some((sound) => sound.key === one.sound.key)) ?? []
	);
</script>

<svelte:head><title>Brief · Cata</title></svelte:head>

{#if whose.gone}
	<NoSuchBrief path="/brief" />
{:else if whose.waits}
	<Loading error={whose.briefs.error} retry={() => whose.briefs.refetch()} />
{:else if !brief || !need}
	<Empty title="What do you need?">
		<p>
			A brief says which sounds you need, as ranges on the readings, and what you can spend. Contenders are then ranked
			by how well their takes fit it and what they cost.
		</p>
		<button class="btn btn-primary" onclick={begin}>Write a brief</button>
	</Empty>
{:else}
	<div class="flex items-center gap-2 mb-4 flex-wrap no-print" {@attach arrows}>
		<h1 class="grow -ml-1.5 basis-60">
			<NameField value={brief.name} label="Name of the brief" strong onchange={(name) => save({ name })} />
		</h1>
		{#if briefs.length > 1}<Customers {briefs} {brief} path="/brief" />{/if}
		<button class="btn btn-sm" onclick={begin}>Another brief</button>
		<TakeOut
			name="brief"
			csv="/api/out/briefs/{brief.id}.csv"
			json="/api/briefs/{brief.id}"
			bundle="brief={brief.id}" />
		<button class="btn btn-sm btn-ghost" onclick={remove}>Remove this brief</button>
	</div>
	<OnPaper {brief} {need} scales={scales.data ?? []} />
	<p class="text-lg mb-5 no-print">
		{need.budget_minor == null ? 'No budget given yet' : `${brief.spendable_text} to spend`}
	</p>

	<div class="grid gap-8 lg:grid-cols-[20rem_1fr] no-print">
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
					brief={brief.id}
					{sound}
					meta={meta.data}
					scale={scaleOf(sound)}
					onchange={(changed) => setSound(i, changed)}
					onremove={() => save({ sounds: sounds.filter((_, at) => at !== i) })} />
			{:else}
				<p class="mb-2">
					Which sounds do you need? Begin with a way of playing, or with single sounds; each comes with ranges that you
					can change.
				</p>
				<div class="flex flex-wrap gap-1 mb-3" role="group" aria-label="Begin with" {@attach arrows}>
					{#each meta.data?.styles ?? [] as one (one.key)}
						<button
							class="btn btn-sm"
							title={one.sounds.map((sound) => sound.name).join(', ')}
							onclick={() => save({ sounds: one.sounds, ...(need.style ? {} : { style: one.name }) })}
							>{one.name}</button>
					{/each}
				</div>
				<ul class="grid gap-2 sm:grid-cols-2 mb-4" {@attach arrows}>
					{#each unused as one (one.sound.key)}
						<li>
							<button
								class="w-full h-full text-left border rule rounded-box p-3 hover:bg-base-200"
								onclick={() => save({ sounds: [...sounds, one.sound] })}>
								<span class="block font-semibold">{one.sound.name}</span>
								<span class="block text-sm quiet">{one.about}</span>
							</button>
						</li>
					{/each}
				</ul>
			{/each}
			<p class="text-sm"><a class="btn btn-primary btn-sm" href="/choose/{brief.id}">See the ranking</a></p>
		</section>
	</div>
{/if}
