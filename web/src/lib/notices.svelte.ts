/** Short messages at the edge of the page; they go by themselves, errors stay longer, questions until they are answered. */
export type Action = { label: string; act: () => void };
export type Notice = { id: number; text: string; kind: 'info' | 'error'; actions: Action[]; share: number | null };

class Notices {
	list = $state<Notice[]>([]);
	#next = 1;

	say(text: string, kind: Notice['kind'] = 'info') {
		// What went wrong before is over once something went well.
		if (kind === 'info') this.list = this.list.filter((one) => one.kind === 'info' || one.actions.length > 0);
		const notice = this.#put(text, kind, [], null);
		setTimeout(() => this.drop(notice.id), kind === 'error' ? 9000 : 6000);
	}

	fail(error: unknown) {
		this.say(error instanceof Error ? error.message : String(error), 'error');
	}

	/** A question with its answers as buttons; any of them takes it away. */
	ask(text: string, actions: Action[]) {
		const notice = this.#put(text, 'error', [], null);
		const answered = (act: () => void) => () => {
			this.drop(notice.id);
			act();
		};
		this.#change(notice.id, { actions: actions.map(({ label, act }) => ({ label, act: answered(act) })) });
	}

	/** Long work with how far it is and what stops it; `done` takes it away. */
	work(stop: () => void) {
		let id: number | null = null;
		return {
			at: (text: string, share: number) => {
				id ??= this.#put(text, 'info', [{ label: 'Stop', act: stop }], share).id;
				this.#change(id, { text, share });
			},
			done: () => {
				if (id !== null) this.drop(id);
			}
		};
	}

	drop(id: number) {
		this.list = this.list.filter((one) => one.id !== id);
	}

	#put(text: string, kind: Notice['kind'], actions: Action[], share: number | null): Notice {
		const notice = { id: this.#next++, text, kind, actions, share };
		this.list = [...this.list.filter((one) => one.text !== text), notice].slice(-4);
		return notice;
	}

	#change(id: number, how: Partial<Notice>) {
		this.list = this.list.map((one) => (one.id === id ? { ...one, ...how } : one));
	}
}

export const notices = new Notices();
