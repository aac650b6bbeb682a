/**
 * The glasses of a trial, gapless like the tray. Everything about them is decided on the server: the same length, the
 * same level, and an address that is good for this trial only. Here they are numbers.
 */
import { Deck } from './deck.svelte';
import type { Engine } from './engine';
import { tidyLoop, type Loop } from './timeline';

type Poured = { label: string; url: string };

export class Blind extends Deck {
	labels = $state.raw<string[]>([]);
	heard = $state<string | null>(null);
	length_s = $state(0);
	loop = $state<Loop | null>(null);

	protected override get filled() {
		return this.labels.length > 0;
	}

	/** Other glasses: the music goes on where it was, in the first of them. */
	async pour(glasses: Poured[]) {
		await this.bring(async (engine, late) => {
			const buffers = await Promise.all(glasses.map((glass) => this.#fetch(engine, glass.url)));
			if (late()) return;
			this.labels = glasses.map((glass) => glass.label);
			this.heard = this.labels[0] ?? null;
			this.length_s = Math.max(0, ...buffers.map((buffer) => buffer.duration));
			const voices = buffers.map((buffer, n) => ({ id: this.labels[n]!, buffer, gain: 1 }));
			engine.load(voices, this.heard);
		});
	}

	async #fetch(engine: Engine, url: string): Promise<AudioBuffer> {
		const response = await fetch(url, { cache: 'no-store' });
		if (!response.ok) throw new Error('This glass could not be poured; the page shows what is asked now.');
		return engine.context.decodeAudioData(await response.arrayBuffer());
	}

	/** Hear a glass; the first press also begins the music. */
	hear(label: string) {
		if (!this.labels.includes(label)) return;
		this.heard = label;
		this.made?.hear(label);
		if (!this.playing) void this.toggle();
	}

	step(by: 1 | -1) {
		const at = this.labels.indexOf(this.heard ?? '');
		const next = this.labels[(at + by + this.labels.length) % this.labels.length];
		if (next) this.hear(next);
	}

	override back() {
		this.seek(this.loop?.start_s ?? 0);
	}

	toggleLoop() {
		const around = Math.max(0, this.position - 0.2);
		this.#setLoop(this.loop ? null : { start_s: around, end_s: around + 4 });
	}

	markLoop(end: 'start' | 'end') {
		const loop = this.loop ?? { start_s: 0, end_s: this.length_s };
		const at = this.position;
		this.#setLoop(end === 'start' ? { start_s: at, end_s: Math.max(loop.end_s, at + 0.2) } : { ...loop, end_s: at });
	}

	#setLoop(loop: Loop | null) {
		this.loop = loop && tidyLoop(loop, this.length_s);
		this.made?.setLoop(this.loop ? { ...this.loop } : null);
	}
}
