/** The typed client of Cata's API, and the query keys that its pages share. */
import { BROWSER_HEADER, browserName, library, LIBRARY_HEADER } from './browser';
import { QueryClient } from '@tanstack/svelte-query';
import createClient from 'openapi-fetch';
import type { components, paths } from './schema';

type Schemas = components['schemas'];
export type Flight = Schemas['FlightView'];
export type FlightSummary = Schemas['FlightSummary'];
export type Contender = Schemas['ContenderView'];
export type Test = Schemas['TestView'];
export type Take = Schemas['TakeView'];
export type Proposal = Schemas['ProposalView'];
export type Match = Schemas['MatchView'];
export type Finding = Schemas['FindingView'];
export type Tray = Schemas['TrayView'];
export type Poured = Schemas['PouredView'];
export type Readings = Schemas['ReadingsView'];
export type ReadingRow = Schemas['ReadingRow'];
export type Gear = Schemas['GearView'];
export type GearKind = Schemas['GearIn']['kind'];
export type Control = Schemas['Control'];
export type Brief = Schemas['BriefView'];
export type Need = Schemas['Need'];
export type Sound = Schemas['Sound'];
export type Target = Schemas['Target'];
export type SoundScale = Schemas['SoundScale'];
export type TargetScale = Schemas['TargetScale'];
export type Pointed = Schemas['PointedView'];
export type Choice = Schemas['ChoiceView'];
export type ToHear = Schemas['ToHear'];
export type Rigs = Schemas['RigsView'];
export type CardIn = Schemas['CardIn'];
export type Rate = Schemas['RateView'];
export type Meta = Schemas['Meta'];
export type Evidence = Schemas['EvidenceView'];
export type Probe = Schemas['ProbeView'];
export type Answered = Schemas['AnswerView'];
export type KnobPower = Schemas['KnobPowerView'];
export type KnobMap = Schemas['KnobMapView'];
export type Pickup = Schemas['PickupView'];
export type StringsHeard = Schemas['StringsView'];
export type Ray = Schemas['RayView'];
export type Sentence = Schemas['SentenceView'];
export type Bed = Schemas['BedView'];
export type Beside = Schemas['BesideView'];
export type Comb = Schemas['CombView'];
export type ByWord = Schemas['ByWord'];
export type Tasting = Schemas['TastingView'];
export type Trial = Schemas['TrialView'];
export type Revealed = Schemas['Revealed'];
export type RoundWas = Schemas['RoundWas'];
export type Round = Schemas['Round'];
export type School = 'equal' | 'by_ear' | 'as_set';
export const SCHOOL_NAMES: Record<School, string> = {
	equal: 'equal loudness',
	by_ear: 'equal to the ear',
	as_set: 'as set'
};

/** Changes that are on their way to the server. */
const changing = new Set<Promise<Response>>();

export const api = createClient<paths>({
	baseUrl: '/',
	headers: { [BROWSER_HEADER]: browserName },
	fetch: (request) => {
		if (library.name) request.headers.set(LIBRARY_HEADER, library.name);
		// A change outlives the page that made it, where its body is small enough for that (64 KiB).
		const lasting = request.method !== 'GET' && !/\/(import|pieces|place)$/.test(request.url);
		const call = fetch(request, lasting ? { keepalive: true } : {});
		if (request.method !== 'GET') {
			changing.add(call);
			const done = () => changing.delete(call);
			call.then(done, done);
		}
		return call;
	}
});

/** Resolves when no change is on its way: what is undone is the last one made, not the one before it. */
export const changesSettled = () => Promise.allSettled(changing);

export const queries = new QueryClient({
	defaultOptions: {
		queries: {
			staleTime: 5_000,
			// What is not there is not asked for twice: the page says so at once.
			retry: (count, error) => count < 1 && !Problem.isGone(error) && Problem.tasting(error) === null,
			refetchOnWindowFocus: false,
			// Tell of these changes always. By default only of fields that were read, and `!a.data || !b.data` reads b.data only once
			// a has come: where b came first the page would wait for it for ever.
			notifyOnChangeProps: ['data', 'error', 'isPending', 'isFetching', 'isError']
		}
	}
});

/** What a query hands to its function. */
export type Asked = { queryKey: readonly unknown[] };

/**
 * What can be told at once, without the latest changes where these take time, is put into the cache and shown; the whole
 * answer follows.
 */
export async function atOnce<T extends { of_before?: boolean }>(
	key: readonly unknown[],
	ask: (at_once: boolean) => Promise<T>
): Promise<T> {
	const soon = await ask(true);
	if (!soon.of_before) return soon;
	queries.setQueryData(key, soon);
	return ask(false);
}

/** An error with a sentence that can be shown. */
export class Problem extends Error {
	constructor(
		message: string,
		/** The server's answer in a number; 0 where it gave none. */
		readonly status = 0,
		/** What is wrong, as a code, and the numbers that go with it. */
		readonly code = '',
		readonly numbers: Record<string, number | string> = {}
	) {
		super(message);
	}

	/** Whether what was asked for is not there (any more). */
	static isGone = (error: unknown) => error instanceof Problem && error.status === 404;
	/** The tasting that this would give away; nothing where it is another problem. */
	static tasting = (error: unknown) =>
		error instanceof Problem && error.code === 'tasting_running' ? Number(error.numbers.tasting) : null;
}

type Answer<T> = { data?: T; error?: unknown; response: Response };

/** The data of an answer, or a Problem with the server's own sentence. */
export async function got<T>(call: Promise<Answer<T>>): Promise<T> {
	let answer: Answer<T>;
	try {
		answer = await call;
	} catch {
		throw new Problem('Cata does not answer. Is it still running?');
	}
	if (answer.error !== undefined || !answer.response.ok) {
		const { detail, code, numbers } = (answer.error ?? {}) as Partial<Pick<Problem, 'code' | 'numbers'>> & {
			detail?: string;
		};
		throw new Problem(detail ?? `Cata answered ${answer.response.status}.`, answer.response.status, code, numbers);
	}
	return answer.data as T;
}
