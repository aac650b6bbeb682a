<script lang="ts">
	/**
	 * A knob at its position, set by typing in its own scale (0–10, a clock face, per cent), dragging, wheel or arrow keys.
	 * Positions run from 7:00 (fully left) to 5:00 (fully right).
	 */
	type Setting = {
		key: string;
		name: string;
		text: string;
		position: number;
		scale: string;
		labels: string[];
		noted?: boolean;
	};
	let { setting, onset, of }: { setting: Setting; onset?: (text: string) => void; of: string } = $props();

	let dragged = $state<number | null>(null);
	let from = 0;
	const position = $derived(dragged ?? setting.position);
	/** Nobody said where it stands: no pointer is drawn. */
	const unknown = $derived(setting.noted === false && dragged === null);
	const angle = $derived(-150 + position * 300);
	let typed = $derived(setting.noted === false ? '' : setting.text);
	let pending: ReturnType<typeof setTimeout> | null = null;

	const percent = (value: number) => `${Math.round(Math.min(1, Math.max(0, value)) * 1000) / 10}%`;

	function nudge(by: number) {
		dragged = Math.min(1, Math.max(0, position + by));
		if (pending) clearTimeout(pending);
		pending = setTimeout(finish, 350);
	}

	function finish() {
		if (dragged === null) return;
		const value = dragged;
		dragged = null;
		if (Math.abs(value - setting.position) > 1e-4) onset?.(percent(value));
	}

	function key(event: KeyboardEvent) {
		const steps: Record<string, number> = {
			ArrowUp: 0.02,
			ArrowRight: 0.02,
			ArrowDown: -0.02,
			ArrowLeft: -0.02,
			PageUp: 0.1,
			PageDown: -0.1
		};
		const step = steps[event.key];
		if (step === undefined || !onset) return;
		event.preventDefault();
		event.stopPropagation();
		nudge(step);
	}
</script>

{#if setting.scale === 'labels'}
	<label class="flex flex-col items-center text-xs gap-1">
		<span>{setting.name}</span>
		<select
			class="select select-xs w-24"
			value={unknown ? '' : setting.text}
			disabled={!onset}
			aria-label="{setting.name} of {of}"
			onchange={(event) => onset?.(event.currentTarget.value)}>
			{#if unknown}<option value="">not noted</option>{/if}
			{#each setting.labels as label (label)}<option>{label}</option>{/each}
		</select>
	</label>
{:else}
	<div class="flex flex-col items-center text-xs w-[3.9rem]">
		<span class="truncate max-w-full">{setting.name}</span>
		<svg
			width="40"
			height="40"
			viewBox="-20 -20 40 40"
			role="slider"
			tabindex={onset ? 0 : -1}
			aria-label="{setting.name} of {of}"
			aria-valuemin="0"
			aria-valuemax="10"
			aria-valuenow={Math.round(position * 100) / 10}
			aria-valuetext={dragged === null ? setting.text : percent(dragged)}
			class="touch-none {onset ? 'cursor-ns-resize' : ''}"
			onkeydown={key}
			onwheel={(event) => {
				if (!onset || document.activeElement !== event.currentTarget) return;
				event.preventDefault();
				nudge(event.deltaY < 0 ? 0.02 : -0.02);
			}}
			onpointerdown={(event) => {
				if (!onset) return;
				event.currentTarget.setPointerCapture(event.pointerId);
				event.currentTarget.focus();
				from = position + event.clientY / 160;
				dragged = position;
			}}
			onpointermove={(event) => {
				if (dragged === null || !event.currentTarget.hasPointerCapture(event.pointerId)) return;
				dragged = Math.min(1, Math.max(0, from - event.clientY / 160));
			}}
			onpointerup={finish}
			onpointercancel={finish}>
			{#each [0, 0.25, 0.5, 0.75, 1] as tick (tick)}
				<line y1="-18.5" y2="-16" stroke="currentColor" opacity="0.6" transform="rotate({-150 + tick * 300})" />
			{/each}
			<circle r="13.5" fill="var(--color-base-300)" stroke="currentColor" stroke-opacity="0.45" />
			{#if unknown}
				<text y="4" text-anchor="middle" class="fill-current text-xs" opacity="0.6">?</text>
			{:else}
				<line
					y1="-4"
					y2="-12.5"
					stroke="currentColor"
					stroke-width="2.4"
					stroke-linecap="round"
					transform="rotate({angle})" />
			{/if}
		</svg>
		{#if onset}
			<input
				class="cell-input figures text-center !p-0"
				aria-label="{setting.name} of {of}, typed"
				placeholder={setting.noted === false ? 'not noted' : ''}
				value={dragged === null ? typed : percent(dragged)}
				onchange={(event) => onset?.(event.currentTarget.value)} />
		{:else}
			<span class="figures">{setting.text}</span>
		{/if}
	</div>
{/if}
