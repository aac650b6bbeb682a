/** What plays voices on a page: its engine, made when it is first wanted, and what a page shows of it. */
import { Problem } from '../api/client';
import { notices } from '../notices.svelte';
import { Engine } from './engine';
import { follow } from './follow';

export class Deck {
	playing = $state(false);
	loading = $state(false);
	/** Why what was asked for last could not be brought. */
	failed = $state.raw<Error | null>(null);
	position = $state(0);
	protected made: Engine | null = null;
	#unfollow = () => {};
	#turn = 0;

	protected get engine(): Engine {
		if (!this.made) {
			this.made = new Engine();
			this.made.onEnded = () => {
				this.playing = false;
				this.position = 0;
			};
		}
		return this.made;
	}

	/** True where there is something to play. */
	protected get filled(): boolean {
		return false;
	}

	/** Bring what takes time to come; where something else is asked for meanwhile, `late` turns true. */
	protected async bring(work: (engine: Engine, late: () => boolean) => Promise<void>) {
		const turn = ++this.#turn;
		const late = () => turn !== this.#turn;
		this.loading = true;
		this.failed = null;
		try {
			await work(this.engine, late);
		} catch (error) {
			if (late()) return;
			this.failed = error instanceof Error ? error : new Error(String(error));
			// The page asks whether to look all the same.
			if (Problem.tasting(error) === null) notices.fail(error);
		} finally {
			if (!late()) this.loading = false;
		}
	}

	async toggle() {
		if (!this.filled) return;
		if (this.engine.playing) this.engine.pause();
		else await this.engine.play();
		this.follow();
	}

	pause() {
		this.made?.pause();
		this.playing = false;
	}

	seek(to: number) {
		this.made?.seek(to);
		this.position = to;
	}

	back() {
		this.seek(0);
	}

	close() {
		this.#turn++;
		this.#unfollow();
		this.made?.dispose();
		this.made = null;
		this.playing = false;
	}

	/** Show the engine's clock for as long as it plays. */
	protected follow() {
		this.#unfollow();
		this.playing = this.engine.playing;
		this.#unfollow = follow(this.engine, (engine) => {
			this.position = engine.position;
			this.playing = engine.playing;
		});
	}
}
