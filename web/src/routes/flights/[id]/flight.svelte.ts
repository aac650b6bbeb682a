/** The open flight, shared by its pages: its data, and what can be done to it. */
import { createQuery } from '@tanstack/svelte-query';
import { getContext, setContext } from 'svelte';
import { api, got, queries, type Flight, type Proposal, type Take } from '$lib/api/client';
import { notices } from '$lib/notices.svelte';

const KEY = Symbol('flight');
type FlightPatch = {
	name?: string;
	question?: string;
	held?: string;
	link?: string;
	school?: 'equal' | 'by_ear' | 'as_set';
};
type ContenderPatch = {
	name?: string;
	is_bypass?: boolean;
	price_minor?: number | null;
	gear_id?: number | null;
	item?: string;
	settings?: Record<string, string>;
};

export class FlightState {
	#ident: () => number;
	query;

	constructor(ident: () => number) {
		this.#ident = ident;
		this.query = createQuery(() => ({
			queryKey: ['flight', ident()],
			queryFn: () => got(api.GET('/api/flights/{flight_id}', { params: { path: { flight_id: ident() } } }))
		}));
	}

	get id(): number {
		return this.#ident();
	}

	get data(): Flight | undefined {
		return this.query.data;
	}

	takeAt(contender: number, test: number): Take | undefined {
		return this.data?.takes.find((take) => take.contender_id === contender && take.test_id === test && !take.repeat);
	}

	contender(id: number | null) {
		return this.data?.contenders.find((one) => one.id === id);
	}

	test(id: number | null) {
		return this.data?.tests.find((one) => one.id === id);
	}

	/** Takes that were read and can be heard. */
	get ready(): Take[] {
		return (this.data?.takes ?? []).filter((take) => take.state === 'ready');
	}

	/** Tests in which two takes at least can be heard. */
	get compared() {
		const ready = this.ready;
		return (this.data?.tests ?? []).filter((test) => ready.filter((take) => take.test_id === test.id).length > 1);
	}

	/** Contenders that can be heard in a test. */
	heardIn(test: number | undefined) {
		const there = this.ready.filter((take) => take.test_id === test).map((take) => take.contender_id);
		return (this.data?.contenders ?? []).filter((one) => there.includes(one.id));
	}

	async #keep(call: Promise<Flight>): Promise<boolean> {
		try {
			const kept = await call;
			// An answer that was asked for before this change must not come after it.
			await queries.cancelQueries({ queryKey: ['flight', this.id], exact: true });
			queries.setQueryData(['flight', this.id], kept);
			return true;
		} catch (error) {
			notices.fail(error);
			await this.query.refetch();
			return false;
		}
	}

	#path = () => ({ path: { flight_id: this.id } });

	change = (body: FlightPatch) =>
		this.#keep(got(api.PATCH('/api/flights/{flight_id}', { params: this.#path(), body })));

	addContender = (body: { name?: string; gear_id?: number; is_bypass?: boolean }) =>
		this.#keep(
			got(
				api.POST('/api/flights/{flight_id}/contenders', {
					params: this.#path(),
					body: { name: '', is_bypass: false, ...body }
				})
			)
		);

	changeContender = (id: number, body: ContenderPatch) =>
		this.#keep(got(api.PATCH('/api/contenders/{contender_id}', { params: { path: { contender_id: id } }, body })));

	moveContender = (id: number, to: number) =>
		this.#keep(
			got(
				api.POST('/api/contenders/{contender_id}/move', {
					params: { path: { contender_id: id } },
					body: { to }
				})
			)
		);

	removeContender = (id: number) =>
		this.#keep(got(api.DELETE('/api/contenders/{contender_id}', { params: { path: { contender_id: id } } })));

	addTest = (name: string) =>
		this.#keep(
			got(
				api.POST('/api/flights/{flight_id}/tests', {
					params: this.#path(),
					body: { name, sound: '', about: '' }
				})
			)
		);

	changeTest = (id: number, body: { name?: string; sound?: string }) =>
		this.#keep(got(api.PATCH('/api/tests/{test_id}', { params: { path: { test_id: id } }, body })));

	moveTest = (id: number, to: number) =>
		this.#keep(got(api.POST('/api/tests/{test_id}/move', { params: { path: { test_id: id } }, body: { to } })));

	removeTest = (id: number) =>
		this.#keep(got(api.DELETE('/api/tests/{test_id}', { params: { path: { test_id: id } } })));

	place = (take: number, contender_id: number | null, test_id: number | null, repeat = 0) =>
		this.#keep(
			got(
				api.POST('/api/takes/{take_id}/place', {
					params: { path: { take_id: take } },
					body: { contender_id, test_id, repeat }
				})
			)
		);

	removeTake = (take: number) =>
		this.#keep(got(api.DELETE('/api/takes/{take_id}', { params: { path: { take_id: take } } })));

	/** Place by name; what was placed and what was not is said. */
	arrange = () =>
		this.#keep(
			got(api.POST('/api/flights/{flight_id}/takes/arrange', { params: this.#path() })).then(({ done, flight }) => {
				if (done.code !== 'nothing_to_place') notices.say(done.words);
				return flight;
			})
		);

	placeAll = (proposals: Proposal[]) =>
		this.#keep(
			got(
				api.POST('/api/flights/{flight_id}/takes/place', {
					params: this.#path(),
					body: {
						cells: proposals.map(({ take_id, contender_id, test_id, repeat, replaces }) => ({
							take_id,
							contender_id: contender_id!,
							test_id: test_id!,
							repeat,
							replaces
						}))
					}
				})
			)
		);

	bringBack = (take: number) =>
		this.#keep(got(api.POST('/api/takes/{take_id}/bring-back', { params: { path: { take_id: take } } })));

	work = (what: 'cancel' | 'continue' | 'retry') =>
		this.#keep(
			got(api.POST('/api/flights/{flight_id}/work/{what}', { params: { path: { flight_id: this.id, what } } }))
		);
}

export function provideFlight(ident: () => number): FlightState {
	return setContext(KEY, new FlightState(ident));
}

export function useFlight(): FlightState {
	return getContext<FlightState>(KEY);
}
