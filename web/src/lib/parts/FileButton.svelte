<script lang="ts">
	/** A button that chooses files; the same file can be chosen twice. */
	let {
		text,
		name,
		kind = 'btn-sm',
		accept = 'audio/*,.wav,.flac,.ogg,.mp3,.aif,.aiff',
		many = false,
		folder = false,
		onfiles
	}: {
		text: string;
		/** What it is called where the text alone does not say it. */
		name?: string;
		kind?: string;
		accept?: string;
		many?: boolean;
		folder?: boolean;
		onfiles: (files: File[]) => void;
	} = $props();
</script>

<label class="btn {kind}">
	{text}
	<input
		class="sr-only"
		type="file"
		aria-label={name}
		accept={folder ? undefined : accept}
		multiple={many}
		webkitdirectory={folder}
		onchange={(event) => {
			// The list empties with the field.
			const files = [...(event.currentTarget.files ?? [])];
			event.currentTarget.value = '';
			onfiles(files);
		}} />
</label>
