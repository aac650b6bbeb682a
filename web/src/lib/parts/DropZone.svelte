<script lang="ts">
	/** Where recordings are dropped or chosen, one after the other, with how far the one under way has come. */
	import DropArea from './DropArea.svelte';
	import FileButton from './FileButton.svelte';

	let {
		label,
		choose,
		sending,
		onfiles
	}: {
		label: string;
		choose: string;
		sending: { name: string; share: number } | null;
		onfiles: (files: File[]) => void;
	} = $props();
</script>

<DropArea {label} class="p-4 text-center" ontaken={(dropped) => onfiles([...dropped.files])}>
	{#if sending}
		<p role="status">Sending {sending.name}…</p>
		<progress class="progress progress-primary w-56" value={sending.share} max="1" aria-label="Sent"></progress>
	{:else}
		<FileButton text={choose} {onfiles} />
		<span class="quiet text-sm">or drop it</span>
	{/if}
</DropArea>
