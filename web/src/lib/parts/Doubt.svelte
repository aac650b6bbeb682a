<script lang="ts">
	/** The sign of a doubt; in full where the hand or the focus is, by its number where it is printed. */
	let { words, number }: { words: string; number: number } = $props();
	let open = $state(false);
</script>

<button
	class="text-xs align-super cursor-help figures"
	aria-expanded={open}
	aria-label="Doubt: {words}"
	title={words}
	onclick={() => (open = !open)}>{number}</button>
{#if open}<span class="block text-xs quiet max-w-48 whitespace-normal">{words}</span>{/if}
