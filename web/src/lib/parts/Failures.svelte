<script lang="ts">
	/** Background work that came to no result: said once, and tried again by one key. */
	import type { components } from '$lib/api/schema';

	type Failure = components['schemas']['FailureView'];
	let { failures, retry }: { failures: Failure[]; retry: () => unknown } = $props();
	const reasons = $derived([...new Set(failures.map((one) => one.text))]);
</script>

{#if failures.length}
	<div class="border border-error rounded-box p-3 mb-4 max-w-4xl flex gap-3 items-center" role="alert">
		<p class="grow">
			{failures.length === 1 ? 'One thing' : `${failures.length} things`} could not be done: {reasons.join(' ')}
		</p>
		<button class="btn btn-sm" onclick={() => retry()}>Try again</button>
	</div>
{/if}
