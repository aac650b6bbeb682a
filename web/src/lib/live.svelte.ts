/** What the server tells while a page is open: changes, and the progress of background work. */
import { queries } from './api/client';

export type Progress = { state: string; done: number; total: number };
type Event =
	| { kind: 'changed'; label: string }
	| { kind: 'done'; flight_id: number; what: string }
	| { kind: 'progress'; flight_id: number; state: string; done?: number; total?: number };

class Live {
	connected = $state(true);
	progress = $state<Record<number, Progress>>({});
	#source: EventSource | null = null;
	#due: ReturnType<typeof setTimeout> | null = null;

	open() {
		if (this.#source) return;
		this.#source = new EventSource('/api/events');
		this.#source.onopen = () => {
			this.connected = true;
			// What happened before somebody listened was told to nobody.
			this.#refresh();
		};
		this.#source.onerror = () => (this.connected = false);
		this.#source.onmessage = (message) => this.#take(JSON.parse(message.data) as Event);
	}

	close() {
		this.#source?.close();
		this.#source = null;
	}

	#take(event: Event) {
		if (event.kind === 'progress') {
			const { flight_id, state, done = 0, total = 0 } = event;
			this.progress = { ...this.progress, [flight_id]: { state, done, total } };
		}
		// A batch of takes gives many events; one look at the server after them is enough.
		this.#due ??= setTimeout(() => this.#refresh(), 150);
	}

	#refresh() {
		if (this.#due) clearTimeout(this.#due);
		this.#due = null;
		void queries.invalidateQueries();
	}
}

export const live = new Live();
