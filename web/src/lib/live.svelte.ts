/** What the server tells while a page is open: changes, and the progress of background work. */
import type { Query } from '@tanstack/svelte-query';
import { queries } from './api/client';

export type Progress = { state: string; done: number; total: number };
type Event =
	| { kind: 'changed'; label: string }
	| { kind: 'workers' }
	| { kind: 'turning'; done: number; total: number }
	| { kind: 'done'; flight_id: number; what: string }
	| { kind: 'progress'; flight_id: number; state: string; done?: number; total?: number };

/** Questions about one flight: the second part of their key is its number. */
const OF_FLIGHT = new Set([
	'flight',
	'plan',
	'order',
	'match',
	'readings',
	'differences',
	'verdict',
	'choice',
	'recordings'
]);
/** Questions that any flight's work may change the answer of. */
const OF_ANY = new Set(['flights', 'recording', 'evidence', 'gear', 'fingerprints']);

class Live {
	connected = $state(true);
	progress = $state<Record<number, Progress>>({});
	/** How far a long undo is, for who asked for one. */
	onTurning: ((done: number, total: number) => void) | null = null;
	#source: EventSource | null = null;
	#due: ReturnType<typeof setTimeout> | null = null;
	/** Flights whose work went on since the last look; null where anything may have changed. */
	#flights: Set<number> | null = new Set();

	open() {
		if (this.#source) return;
		this.#source = new EventSource('/api/events');
		this.#source.onopen = () => {
			this.connected = true;
			// What happened before somebody listened was told to nobody.
			this.#flights = null;
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
		if (event.kind === 'turning') {
			this.onTurning?.(event.done, event.total);
			return;
		}
		if (event.kind === 'progress') {
			const { flight_id, state, done = 0, total = 0 } = event;
			this.progress = { ...this.progress, [flight_id]: { state, done, total } };
		}
		if (event.kind === 'changed' || event.kind === 'workers' || !event.flight_id) this.#flights = null;
		else this.#flights?.add(event.flight_id);
		// A batch of takes gives many events; one look at the server after them is enough.
		this.#due ??= setTimeout(() => this.#refresh(), 150);
	}

	#refresh() {
		if (this.#due) clearTimeout(this.#due);
		this.#due = null;
		const flights = this.#flights;
		this.#flights = new Set();
		const predicate = ({ queryKey: [what, which] }: Query) =>
			flights === null ||
			OF_ANY.has(String(what)) ||
			(OF_FLIGHT.has(String(what)) && (what === 'choice' || flights.has(Number(which))));
		// A first answer on its way may be from before the change, and while it is, nothing is asked twice: look again after it.
		for (const first of queries.getQueryCache().findAll({ predicate, fetchStatus: 'fetching' })) {
			const again = () => void queries.invalidateQueries({ queryKey: first.queryKey, exact: true });
			if (first.state.data === undefined) void first.promise?.then(again, again);
		}
		void queries.invalidateQueries({ predicate });
	}
}

export const live = new Live();
