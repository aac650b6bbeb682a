<script lang="ts">
	/** An empty page that says what it is for and offers the first step. */
	import type { Snippet } from 'svelte';
	let { title, children }: { title: string; children: Snippet } = $props();
</script>

<section class="border rule rounded-box p-8 max-w-2xl my-6">
	<h2 class="mb-2">{title}</h2>
	<div class="space-y-3">{@render children()}</div>
</section>
