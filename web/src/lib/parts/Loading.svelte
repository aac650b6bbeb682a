<script lang="ts">
	/**
	 * What stands where data will be: nothing for a moment, then a word; the server's sentence where it failed. What would
	 * give a running tasting away is shown to who says so.
	 */
	import { api, got, Problem, queries } from '$lib/api/client';
	import { notices } from '$lib/notices.svelte';

	let { error, retry }: { error?: Error | null; retry?: () => void } = $props();
	const tasting = $derived(Problem.tasting(error));

	async function look(tasting_id: number) {
		try {
			await got(api.POST('/api/tastings/{tasting_id}/look', { params: { path: { tasting_id } } }));
			await queries.invalidateQueries();
			retry?.();
		} catch (failed) {
			notices.fail(failed);
		}
	}
</script>

{#if tasting !== null}
	<div class="border border-warning rounded-box p-4 my-4 max-w-2xl" role="alert">
		<p>{error?.message}</p>
		<p class="quiet mt-1">If you listen in it, do not look. If you look, the tasting says so when it is revealed.</p>
		<div class="flex flex-wrap gap-2 mt-3">
			<a class="btn btn-sm btn-primary" href="/tastings/{tasting}">To the tasting</a>
			<button class="btn btn-sm" onclick={() => look(tasting)}>Look anyway</button>
		</div>
	</div>
{:else if error}
	<div class="border border-error rounded-box p-4 my-4 max-w-2xl" role="alert">
		<p>{error.message}</p>
		{#if retry}<button class="btn btn-sm mt-3" onclick={retry}>Try again</button>{/if}
	</div>
{:else}
	<p class="quiet my-4" role="status">Loading…</p>
{/if}
