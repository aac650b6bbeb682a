<script lang="ts">
	/** A name that explains itself: where the mouse rests, and by a press for keyboard and touch. */
	let { name, about }: { name: string; about: string } = $props();
	let open = $state(false);
</script>

{#if about}
	<button
		class="text-left underline decoration-dotted underline-offset-2 cursor-help"
		title={about}
		aria-expanded={open}
		onclick={() => (open = !open)}>{name}</button>
	{#if open}<span class="block text-xs max-w-60 whitespace-normal">{about}</span>{/if}
{:else}{name}{/if}
