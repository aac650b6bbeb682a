<script lang="ts">
	import type { Snippet } from 'svelte';

	/** A table that scrolls sideways by itself where the page is too narrow for it. */
	import { arrows } from '$lib/arrows';

	let {
		label,
		look = 'table table-sm',
		outside = '',
		children
	}: { label?: string; look?: string; outside?: string; children: Snippet } = $props();
</script>

<div class="overflow-x-auto {outside}" {@attach arrows}>
	<table class={look} aria-label={label}>{@render children()}</table>
</div>
