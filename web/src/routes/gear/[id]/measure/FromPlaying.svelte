<script lang="ts">
	/** What the takes of an item say of it: the weaker grade of evidence. */
	import About from '$lib/parts/About.svelte';
	import type { Evidence } from '$lib/api/client';

	let { found }: { found: Evidence } = $props();
</script>

<section aria-labelledby="played" class="mb-6 max-w-3xl">
	<h2 id="played" class="mb-1">From playing alone</h2>
	<p>{found.played} <span class="quiet">A weaker grade of evidence: the test file says more.</span></p>
	<dl class="flex flex-wrap gap-x-6 gap-y-1 mt-1">
		{#each found.played_figures as one (one.name)}
			<div>
				<dt class="text-sm quiet"><About name={one.name} about="{one.about} {one.doubt}" /></dt>
				<dd class="figures">{one.text}</dd>
			</div>
		{/each}
	</dl>
</section>
