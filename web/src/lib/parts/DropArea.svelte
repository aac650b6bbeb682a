<script lang="ts">
	/** A framed area that takes what is dropped on it, and shows that it would. */
	import type { Snippet } from 'svelte';

	let {
		label,
		takes = () => true,
		ontaken,
		class: styles = '',
		children
	}: {
		label: string;
		/** Whether what hovers is meant for this area. */
		takes?: (dragged: DataTransfer) => boolean;
		ontaken: (dropped: DataTransfer) => void;
		class?: string;
		children: Snippet;
	} = $props();
	let over = $state(false);
</script>

<div
	class="border-2 border-dashed rounded-box {styles} {over ? 'border-primary bg-base-200' : 'rule'}"
	role="region"
	aria-label={label}
	ondragover={(event) => {
		if (!event.dataTransfer || !takes(event.dataTransfer)) return;
		event.preventDefault();
		over = true;
	}}
	ondragleave={() => (over = false)}
	ondrop={(event) => {
		event.preventDefault();
		over = false;
		if (event.dataTransfer && takes(event.dataTransfer)) ontaken(event.dataTransfer);
	}}>
	{@render children()}
</div>
