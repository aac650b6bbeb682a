<script lang="ts">
	/** Brief: what do I need? Every field is kept as it is changed; Ctrl+Z takes it back. */
	import { createQuery } from '@tanstack/svelte-query';
	import { api, got, type Need, type Sound, type Target } from '$lib/api/client';
	import { BriefDraft } from '$lib/brief-draft.svelte';
	import { fromMinor, toMinor } from '$lib/money';
	import { notices } from '$lib/notices.svelte';
	import Empty from '$lib/parts/Empty.svelte';
	import Loading from '$lib/parts/Loading.svelte';
	import NameField from '$lib/parts/NameField.svelte';
	import Table from '$lib/parts/Table.svelte';
	import TargetRow from './TargetRow.svelte';

	const briefs = createQuery(() => ({ queryKey: ['briefs'], queryFn: () => got(api.GET('/api/briefs')) }));
	const meta = createQuery(() => ({
		queryKey: ['meta'],
		queryFn: () => got(api.GET('/api/meta')),
		staleTime: Infinity
	}));
	let chosen = $state<number | null>(null);
	const draft = new BriefDraft();
	const brief = $derived(draft.over(briefs.data?.find((one) => one.id === chosen) ?? briefs.data?.[0]));
	const need = $derived(brief?.need);
	const ROLES = [
		['platform', 'clean platform: pedals make the sound'],
		['edge', 'at the edge of breakup'],
		['driven', 'driven: the amp makes the sound'],
		['direct', 'no amp: direct into a desk']
	] as const;

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
	const setTarget = (index: number, at: number, target: Target) => {
		const sound = sounds[index]!;
		return setSound(index, {
			...sound,
			targets: (sound.targets ?? []).map((one, i) => (i === at ? target : one))
		});
	};
	const unused = $derived(
		meta.data?.sounds.filter((one) => !sounds.some((sound) => sound.key === one.sound.key)) ?? []
	);

	function amount(text: string): number | null | undefined {
		if (!text.trim()) return null;
		const minor = toMinor(text, brief?.decimals ?? 2);
		if (minor === null) notices.say('Write an amount, such as 1150.00.', 'error');
		return minor ?? undefined;
	}
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
		<section class="space-y-3" aria-label="Frame">
			<label class="flex flex-col text-sm"
				>Style<textarea
					class="textarea"
					rows="2"
					maxlength="200"
					value={need.style}
					onchange={(event) => save({ style: event.currentTarget.value })}></textarea
				></label>
			<label class="flex flex-col text-sm"
				>The amplifier’s role
				<select
					class="select"
					value={need.role}
					onchange={(event) => save({ role: event.currentTarget.value as Need['role'] })}>
					{#each ROLES as [key, label] (key)}<option value={key}>{label}</option>{/each}
				</select>
			</label>
			<div class="grid grid-cols-2 gap-3">
				<label class="flex flex-col text-sm"
					>Budget, {need.currency}
					<input
						class="input figures"
						inputmode="decimal"
						placeholder="none"
						value={fromMinor(need.budget_minor, brief.decimals)}
						onchange={(event) => {
							const v = amount(event.currentTarget.value);
							if (v !== undefined) void save({ budget_minor: v });
						}} />
				</label>
				<label class="flex flex-col text-sm"
					>Reserve, {need.currency}
					<input
						class="input figures"
						inputmode="decimal"
						value={fromMinor(need.reserve_minor, brief.decimals)}
						onchange={(event) => {
							const v = amount(event.currentTarget.value);
							if (v !== undefined) void save({ reserve_minor: v ?? 0 });
						}} />
				</label>
			</div>
			<p class="text-sm quiet">
				The reserve is kept back for cable, picks, a bag and strings: what is forgotten is what breaks the budget.
			</p>
			<div class="grid grid-cols-2 gap-3">
				<label class="flex flex-col text-sm"
					>Loudness limit, dB(A)
					<input
						class="input figures"
						type="number"
						min="40"
						max="130"
						value={need.loudness_limit_dba}
						onchange={(event) =>
							save({
								loudness_limit_dba: event.currentTarget.value ? Number(event.currentTarget.value) : null
							})} />
				</label>
				<label class="flex flex-col text-sm"
					>Heaviest piece, kg
					<input
						class="input figures"
						type="number"
						min="0"
						max="200"
						value={need.carry_limit_kg}
						onchange={(event) =>
							save({ carry_limit_kg: event.currentTarget.value ? Number(event.currentTarget.value) : null })} />
				</label>
			</div>
			<label class="flex flex-col text-sm"
				>Own rig<textarea
					class="textarea"
					rows="2"
					value={need.own_rig}
					onchange={(event) => save({ own_rig: event.currentTarget.value })}></textarea
				></label>
			<label class="flex flex-col text-sm"
				>Must have<textarea
					class="textarea"
					rows="2"
					value={need.must_haves}
					onchange={(event) => save({ must_haves: event.currentTarget.value })}></textarea
				></label>
			{#if need.loudness_limit_dba && need.loudness_limit_dba >= 85}
				<p class="text-sm border-l-4 border-error pl-3">
					From 85 dB(A) hearing is at risk: 8 hours there, half as long for every 3 dB more. Wear protection and follow
					local limits.
				</p>
			{/if}
		</section>
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
				{@const about = meta.data?.sounds.find((one) => one.sound.key === sound.key)?.about}
				<article class="border rule rounded-box p-3 mb-3" aria-label={sound.name}>
					<header class="flex gap-3 items-center flex-wrap">
						<h3 class="font-semibold grow">{sound.name}</h3>
						<label class="text-sm flex items-center gap-2"
							>counts
							<input
								type="range"
								class="range range-xs w-28"
								min="0"
								max="5"
								step="0.5"
								value={sound.weight}
								aria-label="How much {sound.name} counts"
								onchange={(event) => setSound(i, { ...sound, weight: Number(event.currentTarget.value) })} />
							<span class="figures w-6">{sound.weight}</span>
						</label>
						<button
							class="btn btn-ghost btn-xs"
							onclick={() => save({ sounds: sounds.filter((_, at) => at !== i) })}
							aria-label="Remove {sound.name}">remove</button>
					</header>
					{#if about}<p class="text-sm quiet mb-2">{about}</p>{/if}
					<Table look="table table-xs">
						<thead><tr><th>Reading</th><th>from</th><th>to</th><th>counts</th><th></th></tr></thead>
						<tbody>
							{#each sound.targets ?? [] as target, at (at)}
								<TargetRow
									{target}
									meta={meta.data}
									of={sound.name}
									onchange={(changed) => setTarget(i, at, changed)}
									onremove={() =>
										setSound(i, { ...sound, targets: (sound.targets ?? []).filter((_, n) => n !== at) })} />
							{/each}
						</tbody>
					</Table>
					<select
						class="select select-xs w-52 mt-1"
						aria-label="Add a reading to {sound.name}"
						value=""
						onchange={(event) => {
							const [reading, part] = event.currentTarget.value.split('|');
							if (reading)
								void setSound(i, {
									...sound,
									targets: [...(sound.targets ?? []), { reading, part: part ?? '', low: null, high: null, weight: 1 }]
								});
							event.currentTarget.value = '';
						}}>
						<option value="">Add a reading…</option>
						{#each meta.data?.readings.filter((one) => one.unit !== '' || one.key === 'drive_density') ?? [] as one (one.key)}
							{#if one.parts.length}
								{#each one.parts as part (part.key)}
									{#if part.key !== 'status'}<option value="{one.key}|{part.key}">{one.name}: {part.name}</option>{/if}
								{/each}
							{:else}<option value="{one.key}|">{one.name}</option>{/if}
						{/each}
					</select>
				</article>
			{:else}<p class="quiet">No sounds yet. Add one: each comes with ranges that you can change.</p>{/each}
			<p class="text-sm"><a class="btn btn-primary btn-sm" href="/choose">See the ranking</a></p>
		</section>
	</div>
{/if}
