<script lang="ts">
	/** What Match found and a person kept as it is: the result stands on it, so it is said with the result. */
	let { kept }: { kept: { words: string }[] } = $props();
</script>

{#if kept.length}
	<section class="mt-5 text-sm" aria-label="Kept as it is">
		<h3 class="font-semibold">Kept as it is</h3>
		<ul>
			{#each kept as one, i (i)}<li>{one.words}</li>{/each}
		</ul>
	</section>
{/if}
