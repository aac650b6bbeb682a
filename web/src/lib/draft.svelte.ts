/**
 * Something as the person sees it while changes are on their way to the server. Each change builds on the one before,
 * they arrive in the order they were made, and an answer that was asked for earlier cannot take a newer change back.
 */
import { notices } from './notices.svelte';

export class Draft<T extends object> {
	#held = $state.raw<T | null>(null);
	#saves: Promise<unknown> = Promise.resolve();
	#open = 0;
	#settle: () => Promise<unknown>;

	/** `settle` brings what the server holds, once the last change on its way was kept or refused. */
	constructor(settle: () => Promise<unknown>) {
		this.#settle = settle;
	}

	/** What is not yet confirmed; null where all is. */
	get held(): T | null {
		return this.#held;
	}

	/** Show a change without keeping it. */
	attempt(next: T) {
		this.#held = next;
	}

	/** Keep a change; resolves when it was kept or refused, and the refusal told. */
	keep(next: T, save: () => Promise<unknown>): Promise<unknown> {
		this.#held = next;
		this.#open++;
		this.#saves = this.#saves.then(async () => {
			let refusal: unknown = null;
			try {
				await save();
			} catch (error) {
				refusal = error;
			}
			if (this.#open === 1 || refusal) await this.#settle().catch((error) => (refusal ??= error));
			this.#open--;
			// What was tried since stays: taking it away would put an older value back under the typing hand.
			if ((this.#open === 0 || refusal) && this.#held === next) this.#held = null;
			// Told when what was refused is taken back, so that the next change does not build on it.
			if (refusal) notices.fail(refusal);
		});
		return this.#saves;
	}

	/** Resolves when nothing is on its way. */
	settled(): Promise<unknown> {
		return this.#saves;
	}
}
