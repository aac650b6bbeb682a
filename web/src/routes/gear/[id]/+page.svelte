<script lang="ts">
	/** One item: its knobs where they start, its prices, its flights. */
	import { goto } from '$app/navigation';
	import { page } from '$app/state';
	import { createQuery } from '@tanstack/svelte-query';
	import { api, got, queries, type Control, type Gear } from '$lib/api/client';
	import { notices } from '$lib/notices.svelte';
	import Fingerprint from '$lib/parts/Fingerprint.svelte';
	import Knob from '$lib/parts/Knob.svelte';
	import Loading from '$lib/parts/Loading.svelte';
	import NameField from '$lib/parts/NameField.svelte';

	const id = $derived(Number(page.params.id));
	const item = createQuery(() => ({
		queryKey: ['gear', id],
		queryFn: () => got(api.GET('/api/gear/{gear_id}', { params: { path: { gear_id: id } } }))
	}));
	const evidence = createQuery(() => ({
		queryKey: ['evidence', id],
		queryFn: () => got(api.GET('/api/gear/{gear_id}/evidence', { params: { path: { gear_id: id } } }))
	}));
	const powers = $derived((evidence.data?.knobs ?? []).filter((knob) => knob.sentence));
	let amount = $state('');
	let source = $state('');
	let priceKind = $state<'new' | 'used' | 'offer'>('used');
	let knobName = $state('');
	let scale = $state<'0-10' | 'clock' | 'percent' | 'labels'>('0-10');
	let labels = $state('');
	type Specs = Record<string, string | number | boolean>;
	type Patch = { name?: string; about?: string; structure?: string; controls?: Control[]; specs?: Specs };

	async function keep(call: Promise<Gear>) {
		try {
			queries.setQueryData(['gear', id], await call);
		} catch (error) {
			notices.fail(error);
		}
	}
	const change = (body: Patch) =>
		keep(got(api.PATCH('/api/gear/{gear_id}', { params: { path: { gear_id: id } }, body })));

	function addPrice(event: SubmitEvent) {
		event.preventDefault();
		const text = amount.trim();
		if (!text) return notices.say('Write an amount, such as 149.00 or 149.00 USD.', 'error');
		amount = '';
		return keep(
			got(
				api.POST('/api/gear/{gear_id}/prices', {
					params: { path: { gear_id: id } },
					body: { kind: priceKind, text, currency: 'EUR', source: source.trim(), on_date: '' }
				})
			)
		);
	}

	function addKnob(event: SubmitEvent) {
		event.preventDefault();
		const name = knobName.trim();
		const controls = item.data?.controls ?? [];
		if (!name) return;
		const key = `${name.toLowerCase().replace(/[^a-z0-9]+/g, '-')}-${controls.length + 1}`.slice(0, 40);
		const positions = labels
			.split('/')
			.map((one) => one.trim())
			.filter(Boolean);
		const control = { key, name, scale, default: scale === 'labels' ? 0 : 0.5, taper: 'linear', kind: 'knob' } as const;
		knobName = labels = '';
		return change({ controls: [...controls, { ...control, labels: scale === 'labels' ? positions : [] }] });
	}

	function specify(key: string, value: string | boolean) {
		const specs = Object.fromEntries(
			(item.data?.specs ?? []).filter((one) => one.value !== null).map((one) => [one.key, one.value!])
		);
		return change({ specs: { ...specs, [key]: value } });
	}

	async function remove() {
		try {
			await got(api.DELETE('/api/gear/{gear_id}', { params: { path: { gear_id: id } } }));
			notices.say('Removed. Ctrl+Z brings it back.');
			await goto('/gear');
		} catch (error) {
			notices.fail(error);
		}
	}
</script>

<svelte:head><title>{item.data?.name ?? 'Gear'} · Cata</title></svelte:head>

{#if !item.data}
	<Loading error={item.error} retry={() => item.refetch()} />
{:else}
	{@const gear = item.data}
	<p class="text-sm quiet mb-1"><a class="underline" href="/gear">Gear</a> › {gear.kind}</p>
	<h1 class="mb-1 -ml-1.5">
		<NameField value={gear.name} label="Name" strong onchange={(name) => change({ name })} />
	</h1>
	<textarea
		class="cell-input max-w-3xl -ml-1.5"
		rows="2"
		aria-label="Description"
		placeholder="What is it, in a sentence or two?"
		value={gear.about}
		onchange={(event) => change({ about: event.currentTarget.value })}></textarea>
	<input
		class="cell-input max-w-3xl -ml-1.5 text-sm"
		aria-label="Structure"
		placeholder="How is it built? (soft clip in the feedback, lows cut before it)"
		value={gear.structure}
		onchange={(event) => change({ structure: event.currentTarget.value })} />

	<p class="mt-3 flex flex-wrap gap-3 items-center">
		<a class="btn btn-sm btn-primary" href="/gear/{id}/measure">Measure it</a>
		<Fingerprint gear={id} />
		<span class="quiet text-sm">headroom, gain character, what the knobs do: from one recording of a test file</span>
	</p>
	{#if powers.length}
		<p class="text-sm mt-2 max-w-3xl">
			{#each powers as knob (knob.key)}<span class="block">{knob.sentence}</span>{/each}
		</p>
	{/if}

	<div class="grid gap-8 md:grid-cols-2 mt-4">
		<section aria-labelledby="knobs">
			<h2 id="knobs" class="mb-2">Knobs, where they start</h2>
			<div class="flex flex-wrap gap-3 mb-3">
				{#each gear.controls as control, i (control.key)}
					<div class="flex flex-col items-center">
						<Knob
							of={gear.name}
							setting={{
								key: control.key,
								name: control.name,
								text: gear.control_texts[i] ?? '',
								position: control.default,
								scale: control.scale,
								labels: control.labels ?? []
							}}
							onset={(text) =>
								keep(
									got(
										api.PUT('/api/gear/{gear_id}/controls/{key}', {
											params: { path: { gear_id: id, key: control.key } },
											body: { text }
										})
									)
								)} />
						<button
							class="btn btn-ghost btn-xs"
							aria-label="Remove {control.name}"
							onclick={() => change({ controls: gear.controls.filter((one) => one.key !== control.key) })}
							>remove</button>
					</div>
				{:else}<p class="quiet">No knobs noted yet.</p>{/each}
			</div>
			<form class="flex flex-wrap gap-2" onsubmit={addKnob}>
				<input
					class="input input-sm w-40"
					bind:value={knobName}
					placeholder="Drive"
					aria-label="New knob"
					maxlength="60" />
				<select class="select select-sm w-32" bind:value={scale} aria-label="Its scale">
					<option value="0-10">0 to 10</option>
					<option value="clock">clock face</option>
					<option value="percent">per cent</option>
					<option value="labels">switch, selector</option>
				</select>
				{#if scale === 'labels'}
					<input
						class="input input-sm w-44"
						bind:value={labels}
						required
						placeholder="bright/normal/dark"
						aria-label="Its positions, divided by slashes" />
				{/if}
				<button class="btn btn-sm">Add knob</button>
			</form>
		</section>
		<section aria-labelledby="prices">
			<h2 id="prices" class="mb-2">Prices</h2>
			<table class="table table-sm mb-3">
				<tbody>
					{#each gear.prices as price (price.id)}
						<tr>
							<td>{price.kind}</td>
							<td class="text-right figures {price.id === gear.best_price?.id ? 'font-semibold' : ''}">{price.text}</td>
							<td class="text-sm quiet">{price.on_date} {price.source}</td>
							<td class="text-right">
								<button
									class="btn btn-ghost btn-xs"
									aria-label="Remove {price.kind} price {price.text}"
									onclick={() =>
										keep(got(api.DELETE('/api/prices/{price_id}', { params: { path: { price_id: price.id } } })))}
									>remove</button>
							</td>
						</tr>
					{:else}<tr><td class="quiet">No price known.</td></tr>{/each}
				</tbody>
			</table>
			<form class="flex flex-wrap gap-2" onsubmit={addPrice}>
				<select class="select select-sm w-24" bind:value={priceKind} aria-label="Kind of price">
					<option value="new">new</option>
					<option value="used">used</option>
					<option value="offer">own offer</option>
				</select>
				<input
					class="input input-sm w-28 figures"
					bind:value={amount}
					inputmode="decimal"
					placeholder="149.00 EUR"
					aria-label="Amount" />
				<input
					class="input input-sm w-36"
					bind:value={source}
					placeholder="seen where?"
					aria-label="Source of the price" />
				<button class="btn btn-sm">Add price</button>
			</form>
		</section>
		<section aria-labelledby="specs">
			<h2 id="specs" class="mb-2">Specification</h2>
			<div class="grid grid-cols-[auto_1fr] gap-x-4 gap-y-0.5 items-center text-sm max-w-md">
				{#each gear.specs as spec (spec.key)}
					<label for="spec-{spec.key}" class="quiet">{spec.name}</label>
					{#if spec.type === 'choice'}
						<select
							id="spec-{spec.key}"
							class="cell-input"
							value={spec.value ?? ''}
							onchange={(event) => specify(spec.key, event.currentTarget.value)}>
							<option value="">not known</option>
							{#each spec.choices as one (one)}<option>{one}</option>{/each}
						</select>
					{:else if spec.type === 'flag'}
						<select
							id="spec-{spec.key}"
							class="cell-input"
							value={spec.value === null ? '' : spec.value ? 'yes' : 'no'}
							onchange={(event) => specify(spec.key, event.currentTarget.value)}>
							<option value="">not known</option>
							<option>yes</option>
							<option>no</option>
						</select>
					{:else}
						<input
							id="spec-{spec.key}"
							class="cell-input {spec.type === 'text' ? '' : 'figures'}"
							value={spec.text}
							placeholder={spec.unit}
							onchange={(event) => specify(spec.key, event.currentTarget.value)} />
					{/if}
				{/each}
			</div>
		</section>
		<section aria-labelledby="in-flights">
			<h2 id="in-flights" class="mb-2">In flights</h2>
			{#each gear.flights ?? [] as flight (flight.id)}
				<p><a class="underline" href="/flights/{flight.id}/readings">{flight.name}</a></p>
			{:else}<p class="quiet">It has not been compared yet.</p>{/each}
		</section>
	</div>
	<p class="mt-8"><button class="btn btn-sm btn-ghost" onclick={remove}>Take it off the shelf</button></p>
{/if}
