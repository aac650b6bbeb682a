<script lang="ts">
	/** The way through a flight, one line, left to right, each step with its state. */
	import { page } from '$app/state';
	import { arrows } from '$lib/arrows';

	type Step = { key: string; label: string; state: string; text: string };
	let { flightId, steps, compact = false }: { flightId: number; steps: Step[]; compact?: boolean } = $props();
</script>

<nav aria-label="Steps of this flight" {@attach arrows}>
	<ol class="flex flex-wrap {compact ? 'gap-x-1' : 'gap-x-1 gap-y-1'} items-stretch">
		{#each steps as step, i (step.key)}
			{@const href = `/flights/${flightId}/${step.key}`}
			{@const here = !compact && page.url.pathname === href}
			<li class="flex items-center">
				{#if i > 0}<span class="quiet px-0.5" aria-hidden="true">›</span>{/if}
				<a
					{href}
					class="px-2 py-1 rounded-sm border-b-2 leading-tight hover:bg-base-200 {here
						? 'border-primary'
						: 'border-transparent'}"
					aria-current={here ? 'step' : undefined}>
					<span class="flex items-center gap-1.5 {here ? 'font-semibold' : ''}">
						<svg width="11" height="11" viewBox="0 0 12 12" aria-hidden="true">
							<path
								d="M1 1h10v6l-4 4H1z"
								fill={step.state === 'done' ? 'currentColor' : step.state === 'open' ? 'var(--color-error)' : 'none'}
								stroke={step.state === 'open' ? 'var(--color-error)' : 'currentColor'}
								stroke-width="1.3" />
						</svg>
						{step.label}
					</span>
					{#if !compact}<span class="text-xs {step.state === 'open' ? 'text-error font-semibold' : 'quiet'}"
							>{step.text}</span>
					{:else}<span class="sr-only">{step.text}</span>{/if}
				</a>
			</li>
		{/each}
	</ol>
</nav>
