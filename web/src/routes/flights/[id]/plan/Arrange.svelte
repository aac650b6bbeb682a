<script lang="ts">
	/** A row or column is moved one place, or taken out. */
	import ArrowDown from '@lucide/svelte/icons/arrow-down';
	import ArrowLeft from '@lucide/svelte/icons/arrow-left';
	import ArrowRight from '@lucide/svelte/icons/arrow-right';
	import ArrowUp from '@lucide/svelte/icons/arrow-up';
	import Trash2 from '@lucide/svelte/icons/trash-2';

	type Props = {
		what: 'contender' | 'test';
		name: string;
		place: number;
		of: number;
		onmove: (place: number) => unknown;
		onremove: () => unknown;
	};
	let { what, name, place, of, onmove, onremove }: Props = $props();
	const ways = $derived(
		what === 'test'
			? ([
					['left', place - 1, ArrowLeft],
					['right', place + 1, ArrowRight]
				] as const)
			: ([
					['up', place - 1, ArrowUp],
					['down', place + 1, ArrowDown]
				] as const)
	);
</script>

<span class="at-hand whitespace-nowrap">
	{#each ways as [way, to, Icon] (way)}
		<button
			class="btn btn-ghost btn-xs btn-square"
			disabled={to < 0 || to >= of}
			onclick={() => onmove(to)}
			aria-label="Move {name} {way}"><Icon size={13} /></button>
	{/each}
	<button class="btn btn-ghost btn-xs btn-square" onclick={onremove} aria-label="Remove {what} {name}"
		><Trash2 size={13} /></button>
</span>
