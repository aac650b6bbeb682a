/** Two sources at once: the first as it is, the second at a gain and polarity, moved to where the first is or not. */
import type { Poured } from '../api/client';
import { notices } from '../notices.svelte';
import { Engine } from './engine';
import { follow } from './follow';
import { align, decode } from './load';
import { linear, spanOf } from './timeline';

export type Hears = 'first' | 'second' | 'both';

export class Mixer {
	playing = $state(false);
	loading = $state(false);
	position = $state(0);
	length_s = $state(0);
	gain_db = $state(0);
	turned = $state(false);
	hears = $state<Hears>('both');
	#engine: Engine | null = null;
	#unfollow = () => {};
	#turn = 0;

	/** Both takes, the second moved by so many seconds, in the middle or to both sides; what sounds goes on. */
	async load(first: Poured, second: Poured, lag_s: number, sides = false) {
		const turn = ++this.#turn;
		const engine = (this.#engine ??= new Engine());
		engine.onEnded = () => {
			this.playing = false;
			this.position = 0;
		};
		this.loading = true;
		try {
			const takes = [
				{ ...first, lag_s: 0 },
				{ ...second, lag_s }
			];
			const span = spanOf(takes);
			const buffers = await Promise.all(takes.map((take) => decode(engine.context, take.url)));
			if (turn !== this.#turn) return;
			this.length_s = span.length_s;
			engine.load(
				takes.map((take, n) => ({
					id: n ? 'second' : 'first',
					buffer: align(engine.context, buffers[n]!, take, span),
					gain: linear(take.gain_db),
					pan: sides ? (n ? 1 : -1) : undefined
				})),
				null
			);
			this.mix();
		} catch (error) {
			notices.fail(error);
		} finally {
			if (turn === this.#turn) this.loading = false;
		}
	}

	/** Put what is wanted onto the voices; while it plays it fades there. */
	mix() {
		const second = linear(this.gain_db) * (this.turned ? -1 : 1);
		const gains = { first: this.hears === 'second' ? 0 : 1, second: this.hears === 'first' ? 0 : second };
		this.#engine?.setBeside(gains);
	}

	async toggle() {
		const engine = this.#engine;
		if (!engine || this.loading) return;
		if (engine.playing) engine.pause();
		else await engine.play();
		this.playing = engine.playing;
		this.#follow();
	}

	pause() {
		this.#engine?.pause();
		this.playing = false;
	}

	back() {
		this.#engine?.seek(0);
		this.position = 0;
	}

	close() {
		this.#turn++;
		this.#unfollow();
		this.#engine?.dispose();
		this.#engine = null;
	}

	#follow() {
		this.#unfollow();
		if (!this.#engine) return;
		this.#unfollow = follow(this.#engine, (engine) => {
			this.position = engine.position;
			this.playing = engine.playing;
		});
	}
}
