<script lang="ts">
	/** An address of a brief that was removed. */
	import Empty from './Empty.svelte';

	let { path }: { path: string } = $props();
</script>

<Empty title="This brief is not there">
	<p>It was removed, or the address is of another library.</p>
	<a class="btn btn-primary btn-sm" href={path}>To the brief you used last</a>
</Empty>
