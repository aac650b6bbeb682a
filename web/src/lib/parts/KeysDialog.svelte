<script lang="ts">
	/** The keys of this page; each can be given another key. */
	import { arrows } from '../arrows';
	import { ACTIONS, keys, nameOf, type ActionName } from '../keys.svelte';

	let { open = $bindable(false) }: { open: boolean } = $props();
	let dialog: HTMLDialogElement;
	let changing = $state<ActionName | null>(null);

	$effect(() => {
		if (open && !dialog.open) dialog.showModal();
		if (!open && dialog.open) dialog.close();
	});

	function take(event: KeyboardEvent) {
		if (!changing) return;
		event.preventDefault();
		event.stopPropagation();
		if (['Shift', 'Control', 'Alt', 'Meta'].includes(event.key)) return;
		if (event.key !== 'Escape') keys.set(changing, [nameOf(event)]);
		changing = null;
	}
	const names = Object.keys(ACTIONS) as ActionName[];
</script>

<dialog bind:this={dialog} class="modal" onclose={() => (open = false)} onkeydown={take} aria-label="Keys">
	<div class="modal-box max-w-xl border rule max-h-[calc(100dvh-3rem)]" {@attach arrows}>
		<h2 class="mb-1">Keys</h2>
		<p class="quiet text-sm mb-3">
			They work on every page while something is poured, never while you type. 1 to 9 pour a contender. A foot-switch
			that types a key works too: press “Change”, then the switch.
		</p>
		<table class="table table-sm">
			<tbody>
				{#each names as name (name)}
					<tr>
						<td>{ACTIONS[name].label}</td>
						<td>
							{#if changing === name}<span class="text-primary font-semibold">press a key…</span>
							{:else}{#each keys.of(name) as key (key)}<kbd class="hint mr-1">{key}</kbd>{/each}{/if}
						</td>
						<td class="text-right whitespace-nowrap">
							<button class="btn btn-xs" onclick={() => (changing = name)} aria-label="Change: {ACTIONS[name].label}"
								>Change</button>
							{#if keys.own[name]}
								<button
									class="btn btn-xs"
									onclick={() => keys.set(name, null)}
									aria-label="Reset: {ACTIONS[name].label}">Reset</button>
							{/if}
						</td>
					</tr>
				{/each}
			</tbody>
		</table>
		<div class="modal-action"><button class="btn btn-sm" onclick={() => (open = false)}>Close</button></div>
	</div>
</dialog>
