<script lang="ts">
	/** Bring in a bundle: what is there already is not doubled; Undo takes it all out again. */
	import { queries } from '$lib/api/client';
	import type { components } from '$lib/api/schema';
	import { notices } from '$lib/notices.svelte';
	import FileButton from '$lib/parts/FileButton.svelte';
	import { send, Stopped, type Sending } from '$lib/upload';

	type Brought = components['schemas']['Brought'];
	let share = $state<number | null>(null);
	let sending: Sending | null = null;

	async function bring([file]: File[]) {
		if (!file || share !== null) return;
		share = 0;
		try {
			sending = send('/api/bundle', file, (now) => (share = now));
			const done = JSON.parse(await sending.done) as Brought;
			const added = Object.values(done.added).reduce((sum, one) => sum + one, 0);
			const kept = done.kept.length ? ` Kept as it is here: ${done.kept.slice(0, 4).join(', ')}.` : '';
			const missing = done.missing ? ` ${done.missing} recordings are not in it.` : '';
			notices.say(
				added
					? `“${done.title}” is in, with ${done.recordings} recordings.${kept}${missing} Ctrl+Z takes it out.`
					: `All of “${done.title}” was here already.${kept}`
			);
			await queries.invalidateQueries();
		} catch (error) {
			if (!(error instanceof Stopped)) notices.fail(error);
		} finally {
			share = null;
			sending = null;
		}
	}
</script>

{#if share === null}
	<FileButton text="Bring in a bundle" kind="btn-sm" accept=".zip,application/zip" onfiles={bring} />
{:else}
	<span class="flex gap-2 items-center text-sm" role="status">
		{share < 1 ? 'Sending the bundle…' : 'Bringing it in…'}
		<progress class="progress progress-primary w-32" value={share < 1 ? share : undefined} max="1" aria-label="Sent"
		></progress>
		<button class="btn btn-xs" onclick={() => sending?.stop()}>Cancel</button>
	</span>
{/if}
