<script lang="ts">
	/** Where recordings are dropped or chosen, one after the other, with how far the one under way has come. */
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
	let over = $state(false);
</script>

<div
	class="border-2 border-dashed rounded-box p-4 text-center {over ? 'border-primary bg-base-200' : 'rule'}"
	role="region"
	aria-label={label}
	ondragover={(event) => {
		event.preventDefault();
		over = true;
	}}
	ondragleave={() => (over = false)}
	ondrop={(event) => {
		event.preventDefault();
		over = false;
		onfiles([...(event.dataTransfer?.files ?? [])]);
	}}>
	{#if sending}
		<p role="status">Sending {sending.name}…</p>
		<progress class="progress progress-primary w-56" value={sending.share} max="1" aria-label="Sent"></progress>
	{:else}
		<FileButton text={choose} {onfiles} />
		<span class="quiet text-sm">or drop it</span>
	{/if}
</div>
