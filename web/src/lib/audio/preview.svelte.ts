/** A recording heard by itself, outside the tray: one that has no cell yet. */
import { player } from './player.svelte';

class Preview {
	take = $state<number | null>(null);
	#sound: HTMLAudioElement | null = null;

	/** Hear a take from its start; the same again stops it. */
	toggle(take: number, failed: (text: string) => void) {
		const again = this.take === take;
		this.stop();
		if (again) return;
		if (player.playing) void player.toggle();
		const sound = new Audio(`/api/takes/${take}/audio`);
		this.#sound = sound;
		this.take = take;
		sound.onended = () => this.stop();
		sound.play().catch((error: Error) => {
			if (this.#sound !== sound) return;
			this.stop();
			failed(`It cannot be played: ${error.message}`);
		});
	}

	stop() {
		this.#sound?.pause();
		this.#sound = null;
		this.take = null;
	}
}

export const preview = new Preview();
