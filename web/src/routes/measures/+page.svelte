<script lang="ts">
	/** What each reading means, and its grounds: the very documents that the engineers keep, shown to everybody. */
	import { marked } from 'marked';
	import grounds from '../../../../docs/bibliography.md?raw';
	import source from '../../../../docs/measures.md?raw';

	// The document is part of Cata itself; nothing that a person or a file brings in reaches it.
	const pictures = import.meta.glob<string>('../../../../docs/pictures/*.svg', {
		eager: true,
		query: '?url&no-inline',
		import: 'default'
	});
	const placed = source.replace(/\(pictures\/([\w-]+\.svg)\)/g, (_, name: string) => {
		return `(${pictures[`../../../../docs/pictures/${name}`] ?? ''})`;
	});
	/** The engineers' keys in a player's words: `low_end_loss_db` is low end loss. */
	const UNITS = /_(db|dbfs|dbtp|lufs|hz|ms|percent|ppm|oct|per|cents)(?=_|$)/g;
	const plain = (text: string) =>
		text.replace(/`([a-z0-9]+(?:_[a-z0-9]+)+)`/g, (_, key: string) => key.replace(UNITS, '').replaceAll('_', ' '));
	const html = marked.parse(plain(placed).replace('(bibliography.md)', '(#grounds)'), { async: false });
	const groundsHtml = marked.parse(grounds, { async: false });
</script>

<svelte:head><title>What the readings mean · Cata</title></svelte:head>

<p class="text-sm quiet mb-1"><a class="underline" href="/gear">Gear</a> › what the readings mean</p>
<article class="measures max-w-5xl">
	<!-- eslint-disable-next-line svelte/no-at-html-tags -->
	{@html html}
	<div id="grounds" class="mt-8">
		<!-- eslint-disable-next-line svelte/no-at-html-tags -->
		{@html groundsHtml}
	</div>
</article>

<style>
	.measures :global(h1) {
		margin-bottom: 0.75rem;
	}
	.measures :global(h2) {
		margin: 1.75rem 0 0.5rem;
	}
	.measures :global(p),
	.measures :global(li) {
		margin: 0.5rem 0;
		max-width: 75ch;
	}
	.measures :global(ul) {
		list-style: disc;
		padding-left: 1.25rem;
	}
	.measures :global(table) {
		width: 100%;
		font-size: 0.9rem;
		border-collapse: collapse;
	}
	.measures :global(th),
	.measures :global(td) {
		text-align: left;
		vertical-align: top;
		padding: 0.3rem 0.75rem 0.3rem 0;
		overflow-wrap: anywhere;
		border-bottom: 1px solid color-mix(in oklab, currentColor 18%, transparent);
	}
	.measures :global(code) {
		font-family: var(--font-figures);
	}
	.measures :global(img) {
		max-width: 100%;
		height: auto;
		margin: 0.5rem 0;
	}
</style>
