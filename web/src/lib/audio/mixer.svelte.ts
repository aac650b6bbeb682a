/** Two sources at once: the first as it is, the second at a gain and polarity, moved to where the first is or not. */
import type { Poured } from '../api/client';
import { Deck } from './deck.svelte';
import { voices } from './load';
import { linear } from './timeline';

export type Hears = 'first' | 'second' | 'both';

export class Mixer extends Deck {
	gain_db = $state(0);
	turned = $state(false);
	hears = $state<Hears>('both');
	#poured = false;

	protected override get filled() {
		return this.#poured && !this.loading;
	}

	/** Both takes, the second moved by so many seconds, in the middle or to both sides; what sounds goes on. */
	async load(first: Poured, second: Poured, lag_s: number, sides = false) {
		await this.bring(async (engine, late) => {
			const takes = [
				{ ...first, key: 'first', lag_s: 0 },
				{ ...second, key: 'second', lag_s }
			];
			const [one, other] = await voices(engine.context, takes);
			if (late()) return;
			engine.load(
				sides
					? [
							{ ...one!, pan: -1 },
							{ ...other!, pan: 1 }
						]
					: [one!, other!],
				null
			);
			this.#poured = true;
			this.mix();
		});
	}

	/** Put what is wanted onto the voices; while it plays it fades there. */
	mix() {
		const second = linear(this.gain_db) * (this.turned ? -1 : 1);
		const gains = { first: this.hears === 'second' ? 0 : 1, second: this.hears === 'first' ? 0 : second };
		this.made?.setBeside(gains);
	}
}
