/**
 * The common timeline of a test's takes. Pure functions, no browser objects.
 *
 * A take's lag says how much later it begins than the reference: what sounds at time t of the reference lies at t + lag
 * in the take. The timeline begins where every take has begun and ends with the last one.
 */
export type Placed = { lag_s: number; duration_s: number };
export type Span = { origin_s: number; length_s: number };
export type Loop = { start_s: number; end_s: number };

export const MIN_LOOP_S = 0.15;
export const linear = (db: number) => 10 ** (db / 20);

export function spanOf(takes: readonly Placed[]): Span {
	if (!takes.length) return { origin_s: 0, length_s: 0 };
	const origin = Math.max(...takes.map((take) => -take.lag_s));
	const end = Math.max(...takes.map((take) => take.duration_s - take.lag_s));
	return { origin_s: origin, length_s: Math.max(0, end - origin) };
}

/** First sample of the timeline within a take (never negative by construction of the span). */
export function firstSample(take: Placed, span: Span, rate: number): number {
	return Math.max(0, Math.round((span.origin_s + take.lag_s) * rate));
}

/** Where playing that began at `from_s` stands after `elapsed_s`, in a loop or not. */
export function positionAfter(from_s: number, elapsed_s: number, loop: Loop | null): number {
	const position = from_s + Math.max(0, elapsed_s);
	if (!loop || position < loop.end_s) return position;
	const length = loop.end_s - loop.start_s;
	return loop.start_s + ((position - loop.start_s) % length);
}

/** A loop inside the timeline, its ends in order and not too close. */
export function tidyLoop(loop: Loop, length_s: number): Loop {
	const start = Math.min(Math.max(0, Math.min(loop.start_s, loop.end_s)), Math.max(0, length_s - MIN_LOOP_S));
	const end = Math.min(length_s, Math.max(loop.start_s, loop.end_s, start + MIN_LOOP_S));
	return { start_s: start, end_s: end };
}

export function clock(seconds: number): string {
	const whole = Math.max(0, seconds);
	return `${Math.floor(whole / 60)}:${(whole % 60).toFixed(1).padStart(4, '0')}`;
}
