<script lang="ts">
	/** Says that what is shown is from before the latest changes while these are counted in; why, where that failed. */
	import Loading from './Loading.svelte';

	let { shown, error, retry }: { shown?: boolean; error: Error | null; retry: () => void } = $props();
</script>

{#if shown && error}
	<p class="quiet">This is from before the latest changes.</p>
	<Loading {error} {retry} />
{:else if shown}
	<p class="font-semibold of-before" role="status">
		This is from before the latest changes; they are being counted in…
	</p>
{/if}

<style>
	/* What takes no time is not told of. */
	.of-before {
		animation: appear 0s 0.4s backwards;
	}
	@keyframes appear {
		from {
			visibility: hidden;
		}
	}
</style>
