<script lang="ts">
	/** What Match found: kept by a person as it is, so that the result stands on it, or left out of it. */
	let { kept, left }: { kept: { words: string }[]; left: { words: string }[] } = $props();
	const told = $derived([
		{ name: 'Left out', lines: left },
		{ name: 'Kept as it is', lines: kept }
	]);
</script>

{#each told as { name, lines } (name)}
	{#if lines.length}
		<section class="mt-5 text-sm" aria-label={name}>
			<h3 class="font-semibold">{name}</h3>
			<ul>
				{#each lines as one, i (i)}<li>{one.words}</li>{/each}
			</ul>
		</section>
	{/if}
{/each}
