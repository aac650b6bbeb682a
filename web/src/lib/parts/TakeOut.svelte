<script lang="ts">
	/** A result as a document on paper, and its data as files. */
	import { arrows } from '../arrows';

	let { csv, json, name, bundle }: { csv?: string; json: string; name: string; bundle?: string } = $props();
</script>

<span class="flex gap-1 no-print" role="group" aria-label="Take out" {@attach arrows}>
	<button class="btn btn-sm" onclick={() => window.print()}>Print</button>
	{#if csv}<a class="btn btn-sm" href={csv} download aria-label="Take out as CSV">CSV</a>{/if}
	<a class="btn btn-sm" href={json} download="{name}.json" aria-label="Take out as JSON">JSON</a>
	{#if bundle}<a
			class="btn btn-sm"
			href="/api/bundle?{bundle}"
			download="{name}.zip"
			title="All of it in open formats, to be brought in elsewhere"
			aria-label="Take out as a bundle">Bundle</a
		>{/if}
</span>
