<script lang="ts">
	/** What stands where data will be: nothing for a moment, then a word; the server's sentence where it failed. */
	let { error, retry }: { error?: Error | null; retry?: () => void } = $props();
</script>

{#if error}
	<div class="border border-error rounded-box p-4 my-4 max-w-2xl" role="alert">
		<p>{error.message}</p>
		{#if retry}<button class="btn btn-sm mt-3" onclick={retry}>Try again</button>{/if}
	</div>
{:else}
	<p class="quiet my-4" role="status">Loading…</p>
{/if}
