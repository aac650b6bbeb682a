/** Up to four takes at once, equally loud and lined up as in the tray; any of them can be left out while they play. */
import type { Poured } from '../api/client';
import { notices } from '../notices.svelte';
import { Engine } from './engine';
import { follow } from './follow';
import { align, decode } from './load';
import { linear, spanOf } from './timeline';

export class Layers {
	playing = $state(false);
	loading = $state(false);
	/** Who sounds, by the key of a take. */
	on = $state<Record<string, boolean>>({});
	#engine: Engine | null = null;
	#unfollow = () => {};
	#turn = 0;

	/** Lay takes over each other; what sounds goes on. */
	async load(takes: Poured[]) {
		const turn = ++this.#turn;
		const engine = (this.#engine ??= new Engine());
		engine.onEnded = () => (this.playing = false);
		this.loading = true;
		try {
			const span = spanOf(takes);
			const buffers = await Promise.all(takes.map((take) => decode(engine.context, take.url)));
			if (turn !== this.#turn) return;
			// No peak of their sum is cut, whatever they do to each other.
			const room = 1 / Math.max(1, takes.length);
			engine.load(
				takes.map((take, n) => ({
					id: take.key,
					buffer: align(engine.context, buffers[n]!, take, span),
					gain: linear(take.gain_db) * room
				})),
				null
			);
			this.on = Object.fromEntries(takes.map((take) => [take.key, this.on[take.key] ?? true]));
			this.#mix();
		} catch (error) {
			notices.fail(error);
		} finally {
			if (turn === this.#turn) this.loading = false;
		}
	}

	turn(key: string) {
		this.on = { ...this.on, [key]: !this.on[key] };
		this.#mix();
	}

	#mix() {
		this.#engine?.setBeside(Object.fromEntries(Object.entries(this.on).map(([key, on]) => [key, on ? 1 : 0])));
	}

	async toggle() {
		const engine = this.#engine;
		if (!engine || this.loading) return;
		if (engine.playing) engine.pause();
		else await engine.play();
		this.playing = engine.playing;
		this.#unfollow();
		this.#unfollow = follow(engine, () => (this.playing = engine.playing));
	}

	pause() {
		this.#engine?.pause();
		this.playing = false;
	}

	close() {
		this.#turn++;
		this.#unfollow();
		this.#engine?.dispose();
		this.#engine = null;
	}
}
