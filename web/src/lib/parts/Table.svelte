<script lang="ts">
	import type { Snippet } from 'svelte';

	/** A table that scrolls sideways by itself where the page is too narrow for it. */
	import { arrows } from '$lib/arrows';

	let {
		label,
		look = 'table table-sm',
		outside = '',
		grouped = false,
		children
	}: {
		label?: string;
		look?: string;
		outside?: string;
		/** Whether it belongs to a group that has the arrows already. */
		grouped?: boolean;
		children: Snippet;
	} = $props();
</script>

<div class="overflow-x-auto {outside}" {@attach grouped ? undefined : arrows}>
	<table class={look} aria-label={label}>{@render children()}</table>
</div>
