/**
 * The glasses of a trial, gapless like the tray. Everything about them is decided on the server: the same length, the
 * same level, and an address that is good for this trial only. Here they are numbers.
 */
import { notices } from '../notices.svelte';
import { Engine } from './engine';
import { follow } from './follow';
import { tidyLoop, type Loop } from './timeline';

type Poured = { label: string; url: string };

export class Blind {
	labels = $state.raw<string[]>([]);
	heard = $state<string | null>(null);
	playing = $state(false);
	loading = $state(false);
	position = $state(0);
	length_s = $state(0);
	loop = $state<Loop | null>(null);
	#engine: Engine | null = null;
	#turn = 0;
	#unfollow = () => {};

	/** Other glasses: the music goes on where it was, in the first of them. */
	async pour(glasses: Poured[]) {
		const turn = ++this.#turn;
		const engine = this.#ready();
		this.loading = true;
		try {
			const buffers = await Promise.all(glasses.map((glass) => this.#fetch(engine, glass.url)));
			if (turn !== this.#turn) return;
			this.labels = glasses.map((glass) => glass.label);
			this.heard = this.labels[0] ?? null;
			this.length_s = Math.max(0, ...buffers.map((buffer) => buffer.duration));
			const voices = buffers.map((buffer, n) => ({ id: this.labels[n]!, buffer, gain: 1 }));
			engine.load(voices, this.heard);
		} catch (error) {
			if (turn === this.#turn) notices.fail(error);
		} finally {
			if (turn === this.#turn) this.loading = false;
		}
	}

	async #fetch(engine: Engine, url: string): Promise<AudioBuffer> {
		const response = await fetch(url, { cache: 'no-store' });
		if (!response.ok) throw new Error('This glass could not be poured; the page shows what is asked now.');
		return engine.context.decodeAudioData(await response.arrayBuffer());
	}

	#ready(): Engine {
		if (!this.#engine) {
			this.#engine = new Engine();
			this.#engine.onEnded = () => {
				this.playing = false;
				this.position = 0;
			};
		}
		return this.#engine;
	}

	async toggle() {
		if (!this.labels.length) return;
		const engine = this.#ready();
		if (engine.playing) engine.pause();
		else await engine.play();
		this.playing = engine.playing;
		this.#tick();
	}

	/** Hear a glass; the first press also begins the music. */
	hear(label: string) {
		if (!this.labels.includes(label)) return;
		this.heard = label;
		this.#engine?.hear(label);
		if (!this.playing) void this.toggle();
	}

	step(by: 1 | -1) {
		const at = this.labels.indexOf(this.heard ?? '');
		const next = this.labels[(at + by + this.labels.length) % this.labels.length];
		if (next) this.hear(next);
	}

	back() {
		this.#engine?.seek(this.loop?.start_s ?? 0);
		this.position = this.loop?.start_s ?? 0;
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
		this.#engine?.setLoop(this.loop ? { ...this.loop } : null);
	}

	close() {
		this.#turn++;
		this.#unfollow();
		this.#engine?.dispose();
		this.#engine = null;
		this.playing = false;
	}

	#tick() {
		this.#unfollow();
		if (!this.#engine) return;
		this.#unfollow = follow(this.#engine, (engine) => {
			this.position = engine.position;
			this.playing = engine.playing;
		});
	}
}
