<script lang="ts">
	/** A chart as wide as its place; it can be taken out as a picture. */
	import type { Snippet } from 'svelte';
	import { arrows } from '../arrows';
	import { notices } from '../notices.svelte';
	import { takePicture } from '../picture-out';

	type Props = { width: number; title: string; children: Snippet };
	let { width = $bindable(), title, children }: Props = $props();
	let frame: HTMLElement;

	async function out(kind: 'svg' | 'png') {
		const svg = frame.querySelector('svg');
		try {
			if (svg) await takePicture(svg, title.split(';')[0] ?? title, kind);
		} catch (error) {
			notices.fail(error);
		}
	}
</script>

<figure bind:this={frame} class="chart w-full min-w-0 overflow-hidden relative" bind:clientWidth={width}>
	{@render children()}
	<span class="absolute right-1 bottom-0 flex at-hand no-print" {@attach arrows}>
		{#each ['svg', 'png'] as const as kind (kind)}
			<button
				class="btn btn-xs btn-ghost bg-base-100"
				onclick={() => out(kind)}
				aria-label="Take this picture out as {kind.toUpperCase()}: {title}">{kind.toUpperCase()}</button>
		{/each}
	</span>
</figure>
