/** The plan of a flight: its chain, its house rules, its tests from blocks, its order. */
import { createQuery } from '@tanstack/svelte-query';
import { api, changesSettled, got, queries } from '$lib/api/client';
import type { Link, Order, Plan } from '$lib/api/plan';
import { notices } from '$lib/notices.svelte';

type Wish = { anchors: boolean; session_limit_min: number | null };
type Conditions = NonNullable<Plan['chain']['conditions']>;

export class PlanState {
	query;
	orderQuery;
	ordering = $state(false);
	#id: () => number;
	#edits: Promise<unknown> = Promise.resolve();

	/** `short`: of the order only what is open, as an order for another day. */
	constructor(id: () => number, short: () => boolean = () => false) {
		this.#id = id;
		this.query = createQuery(() => ({
			queryKey: ['plan', id()],
			queryFn: () => got(api.GET('/api/flights/{flight_id}/plan', { params: { path: { flight_id: id() } } }))
		}));
		this.orderQuery = createQuery(() => ({
			queryKey: short() ? ['order', id(), 'short'] : ['order', id()],
			queryFn: () =>
				got(
					api.GET('/api/flights/{flight_id}/order', {
						params: { path: { flight_id: id() }, query: { short: short() } }
					})
				)
		}));
	}

	get data(): Plan | undefined {
		return this.query.data;
	}

	get order(): Order | undefined {
		return this.orderQuery.data;
	}

	get #path() {
		return { path: { flight_id: this.#id() } };
	}

	async #keep(call: Promise<Plan>): Promise<boolean> {
		try {
			const kept = await call;
			// A look that was asked for before this was kept would put the older plan back.
			await queries.cancelQueries({ queryKey: ['plan', this.#id()] });
			queries.setQueryData(['plan', this.#id()], kept);
			return true;
		} catch (error) {
			notices.fail(error);
			await this.query.refetch();
			return false;
		}
	}

	/** An edit of the plan: made on what the edit before it left, however quickly they follow each other. */
	#queued(call: () => Promise<Plan>): Promise<boolean> {
		const next = this.#edits.then(() => this.#keep(call()));
		this.#edits = next;
		return next;
	}

	#edit = (links: (now: Link[]) => Link[], conditions: Partial<Conditions> = {}) =>
		this.#queued(() =>
			got(
				api.PUT('/api/flights/{flight_id}/chain', {
					params: this.#path,
					body: {
						links: links(this.links()),
						conditions: { ...this.data!.chain.conditions, ...conditions } as Conditions
					}
				})
			)
		);

	links(): Link[] {
		return (this.data?.chain.links ?? []) as Link[];
	}

	changeLink = (key: string, change: Partial<Link>) =>
		this.#edit((links) => links.map((link) => (link.key === key ? { ...link, ...change } : link)));

	removeLink = (key: string) => this.#edit((links) => links.filter((link) => link.key !== key));

	addLink = (link: Link) => this.#edit((links) => [...links, link]);

	conditions = (change: Partial<Conditions>) => this.#edit((links) => links, change);

	/** A knob of a link, as a person writes its position. */
	turn = (key: string, control: string, text: string) =>
		this.#queued(() =>
			got(
				api.PATCH('/api/flights/{flight_id}/chain/{key}', {
					params: { path: { ...this.#path.path, key } },
					body: { settings: { [control]: text } }
				})
			)
		);

	rule = (question: string, school: string) =>
		this.#queued(() =>
			got(api.PUT('/api/flights/{flight_id}/rules', { params: this.#path, body: { question, school } }))
		);

	addBlock = (block: string, options: { role?: string; positions?: number }) =>
		this.#queued(() =>
			got(
				api.POST('/api/flights/{flight_id}/blocks', {
					params: this.#path,
					body: { block, positions: 5, role: 'gain', phrase: 'soft-to-hard', ...options } as never
				})
			)
		);

	addSet = (set: string) =>
		this.#queued(() => got(api.POST('/api/flights/{flight_id}/sets', { params: this.#path, body: { set } })));

	/** What differs for a contender besides the compared link. */
	changeRow = (
		contender_id: number,
		links: Record<string, Link>,
		conditions: Record<string, string | number>,
		wanted: string[]
	) =>
		this.#queued(() =>
			got(
				api.PUT('/api/contenders/{contender_id}/changes', {
					params: { path: { contender_id } },
					body: { links, conditions, wanted }
				})
			)
		);

	/** A knob of another link, set differently for one contender. */
	turnFor = (contender_id: number, key: string, control: string, text: string) =>
		this.#queued(() =>
			got(
				api.PATCH('/api/contenders/{contender_id}/changes/{key}', {
					params: { path: { contender_id, key } },
					body: { settings: { [control]: text } }
				})
			)
		);

	makeOrder = async (wish: Wish) => {
		this.ordering = true;
		try {
			// A row or a test that was just added is to be in it.
			await changesSettled();
			const order = await got(
				api.POST('/api/flights/{flight_id}/order', { params: this.#path, body: { ...wish, costs: {} } })
			);
			queries.setQueryData(['order', this.#id()], order);
		} catch (error) {
			notices.fail(error);
		} finally {
			this.ordering = false;
		}
	};

	stopImproving = async () => {
		try {
			const order = await got(api.DELETE('/api/flights/{flight_id}/order/improving', { params: this.#path }));
			queries.setQueryData(['order', this.#id()], order);
		} catch (error) {
			notices.fail(error);
		}
	};

	mark = async (planned_id: number, state: 'todo' | 'done' | 'redo') => {
		try {
			queries.setQueryData(
				['order', this.#id()],
				await got(api.PATCH('/api/planned/{planned_id}', { params: { path: { planned_id } }, body: { state } }))
			);
		} catch (error) {
			notices.fail(error);
		}
	};

	correct = async (planned_id: number, used: Record<string, string>) => {
		try {
			queries.setQueryData(
				['order', this.#id()],
				await got(api.PATCH('/api/planned/{planned_id}', { params: { path: { planned_id } }, body: { used } }))
			);
		} catch (error) {
			notices.fail(error);
		}
	};
}

/** Minutes and hours as people say them. */
export function spoken(seconds: number): string {
	const minutes = Math.round(seconds / 60);
	if (seconds < 90) return `${Math.round(seconds)} s`;
	return minutes < 60 ? `${minutes} min` : `${Math.floor(minutes / 60)} h ${String(minutes % 60).padStart(2, '0')} min`;
}
