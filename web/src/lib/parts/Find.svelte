<script lang="ts">
	/** Find anything by its words, from every page: gear, flights, their contenders, tests and takes, briefs. */
	import { goto } from '$app/navigation';
	import { createQuery } from '@tanstack/svelte-query';
	import { api, got } from '../api/client';

	let { open = $bindable(false) }: { open: boolean } = $props();
	let dialog: HTMLDialogElement;
	let field: HTMLInputElement;
	let words = $state('');
	let place = $state(0);

	$effect(() => {
		if (open && !dialog.open) {
			dialog.showModal();
			field.select();
		}
		if (!open && dialog.open) dialog.close();
	});
	const found = createQuery(() => ({
		queryKey: ['find', words],
		queryFn: () => got(api.GET('/api/find', { params: { query: { q: words } } })),
		enabled: open && words.trim().length > 0,
		placeholderData: (before) => before
	}));
	const list = $derived(words.trim() ? (found.data ?? []) : []);
	const at = $derived(Math.min(place, Math.max(0, list.length - 1)));

	async function go(address: string) {
		open = false;
		await goto(address);
	}

	function press(event: KeyboardEvent) {
		const step = { ArrowDown: 1, ArrowUp: -1 }[event.key];
		if (step && list.length) {
			event.preventDefault();
			place = (at + step + list.length) % list.length;
			dialog.querySelector(`#found-${place}`)?.scrollIntoView({ block: 'nearest' });
		}
		const chosen = list[at];
		if (event.key === 'Enter' && chosen) {
			event.preventDefault();
			void go(chosen.address);
		}
	}
</script>

<dialog bind:this={dialog} class="modal modal-top" onclose={() => (open = false)} aria-label="Find">
	<div class="modal-box max-w-2xl mx-auto border rule mt-4">
		<input
			bind:this={field}
			bind:value={words}
			class="input w-full"
			type="text"
			autocomplete="off"
			placeholder="Find gear, flights, takes, briefs"
			aria-label="Find"
			role="combobox"
			aria-expanded={list.length > 0}
			aria-controls="found"
			aria-activedescendant={list.length ? `found-${at}` : undefined}
			maxlength="200"
			oninput={() => (place = 0)}
			onkeydown={press} />
		<ul id="found" role="listbox" aria-label="Found" class="mt-2 max-h-[60dvh] overflow-y-auto">
			{#each list as one, i (`${one.what} ${one.id}`)}
				<li id="found-{i}" role="option" aria-selected={i === at}>
					<a
						href={one.address}
						tabindex="-1"
						class="flex gap-3 items-baseline px-2 py-1.5 rounded-sm {i === at ? 'bg-base-300' : 'hover:bg-base-200'}"
						onclick={(event) => {
							event.preventDefault();
							void go(one.address);
						}}>
						<span class="font-semibold">{one.title}</span>
						<span class="quiet text-sm grow">{one.where}</span>
						<span class="quiet text-sm">{one.what}</span>
					</a>
				</li>
			{/each}
		</ul>
		<p class="quiet text-sm mt-2" role="status">
			{#if words.trim() && found.data && !list.length}Nothing holds these words.
			{:else if list.length === 30}The best 30; more words find less.
			{:else}Words, or their beginnings; or how it sounds: “less boxy than …”. Arrows and Enter.{/if}
		</p>
	</div>
	<form method="dialog" class="modal-backdrop"><button aria-label="Close">close</button></form>
</dialog>
