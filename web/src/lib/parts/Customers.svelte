<script lang="ts">
	/** All briefs, the last used first, with a search: each is a link to the same page for that brief. */
	import ChevronDown from '@lucide/svelte/icons/chevron-down';
	import { arrows } from '$lib/arrows';
	import type { Brief } from '$lib/api/client';
	import { seens } from '$lib/whose.svelte';

	let { briefs, brief, path }: { briefs: Brief[]; brief: Brief; path: string } = $props();
	const SEARCHED = 7;
	let open = $state(false);
	let sought = $state('');
	let root: HTMLElement;
	const order = $derived(new Map(seens.all.map((one, n) => [one.brief, n])));
	const place = (id: number) => order.get(id) ?? order.size;
	const words = $derived(sought.trim().toLocaleLowerCase().split(/\s+/));
	const found = $derived(
		briefs
			.filter((one) => words.every((word) => `${one.name} ${one.line}`.toLocaleLowerCase().includes(word)))
			.sort((a, b) => place(a.id) - place(b.id))
	);

	function close(event: KeyboardEvent) {
		if (event.key !== 'Escape' || !open) return;
		event.stopPropagation();
		open = false;
		root.querySelector('button')?.focus();
	}
</script>

<svelte:window onclick={(event) => open && !root.contains(event.target as Node) && (open = false)} />

<div class="relative no-print" bind:this={root} onkeydown={close} role="presentation">
	<button
		class="btn btn-sm max-w-80"
		aria-expanded={open}
		aria-label="For {brief.name}: choose another brief"
		onclick={() => (open = !open)}>
		<span class="quiet">for</span><span class="truncate">{brief.name}</span><ChevronDown size={16} /></button>
	{#if open}
		<div class="absolute z-20 right-0 mt-1 w-80 max-w-[90vw] bg-base-100 border rule rounded-box p-2 shadow-lg">
			{#if briefs.length > SEARCHED}
				<!-- svelte-ignore a11y_autofocus -->
				<input
					class="input input-sm w-full mb-2"
					type="search"
					autofocus
					aria-label="Search briefs"
					bind:value={sought} />
			{/if}
			<ul class="max-h-80 overflow-y-auto" aria-label="Briefs" {@attach arrows}>
				{#each found as one (one.id)}
					<li>
						<a
							class="block rounded px-2 py-1.5 hover:bg-base-200 {one.id === brief.id ? 'font-semibold' : ''}"
							aria-current={one.id === brief.id ? 'page' : undefined}
							href="{path}/{one.id}"
							onclick={() => (open = false)}>
							{one.name}<span class="block text-xs quiet truncate">{one.line}</span></a>
					</li>
				{:else}
					<li class="px-2 py-1.5 quiet">No brief is called that.</li>
				{/each}
			</ul>
		</div>
	{/if}
</div>
