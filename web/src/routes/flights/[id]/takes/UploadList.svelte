<script lang="ts">
	/** Files on their way in: how far each is, and why one was refused. */
	import type { Uploads } from './uploads.svelte';

	let { uploads }: { uploads: Uploads } = $props();
</script>

{#if uploads.list.length}
	<section class="mb-4" aria-label="Uploads">
		<p class="mb-1 flex gap-3 items-center" role="status">
			{#if uploads.open}
				<span>{uploads.list.length - uploads.open} of {uploads.list.length} files done</span>
				<button class="btn btn-xs" onclick={() => uploads.cancel()}>Cancel</button>
			{:else}
				<span
					>{uploads.list.filter((one) => one.state === 'taken').length} taken{uploads.refused.length
						? `, ${uploads.refused.length} refused`
						: ''}</span>
				<button class="btn btn-xs" onclick={() => uploads.clear()}>Put this list away</button>
			{/if}
		</p>
		<ul class="text-sm max-h-48 overflow-y-auto">
			{#each uploads.list.filter((one) => one.state !== 'taken') as one (one.id)}
				<li class="flex gap-3 items-center py-0.5">
					<span class="truncate max-w-96">{one.name}</span>
					{#if one.state === 'sending'}<progress class="progress w-24" value={one.share} aria-label="Sent of {one.name}"
						></progress>
					{:else if one.state === 'refused'}<span class="text-error">refused: {one.reason}</span>
					{:else}<span class="quiet">{one.state}</span>{/if}
				</li>
			{/each}
		</ul>
	</section>
{/if}
