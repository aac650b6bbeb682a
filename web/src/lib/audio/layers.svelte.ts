/** Up to four takes at once, equally loud and lined up as in the tray; any of them can be left out while they play. */
import type { Poured } from '../api/client';
import { Deck } from './deck.svelte';
import { voices } from './load';

export class Layers extends Deck {
	/** Who sounds, by the key of a take. */
	on = $state<Record<string, boolean>>({});
	#poured = false;

	protected override get filled() {
		return this.#poured && !this.loading;
	}

	/** Lay takes over each other; what sounds goes on. */
	async load(takes: Poured[]) {
		await this.bring(async (engine, late) => {
			const found = await voices(engine.context, takes);
			if (late()) return;
			// No peak of their sum is cut, whatever they do to each other.
			const room = 1 / Math.max(1, takes.length);
			engine.load(
				found.map((voice) => ({ ...voice, gain: voice.gain * room })),
				null
			);
			this.#poured = true;
			this.on = Object.fromEntries(takes.map((take) => [take.key, this.on[take.key] ?? true]));
			this.#mix();
		});
	}

	turn(key: string) {
		this.on = { ...this.on, [key]: !this.on[key] };
		this.#mix();
	}

	#mix() {
		this.made?.setBeside(Object.fromEntries(Object.entries(this.on).map(([key, on]) => [key, on ? 1 : 0])));
	}
}
