/** Dash patterns of the eight contender places, for lines and marks; colour is never the only code. */
export const DASHES = ['', '7 3', '2 3', '10 3 2 3', '5 2', '1 4', '12 4', '8 2 2 2 2 2'] as const;

/** Third-octave ticks that are labelled on a frequency axis. */
export const LABELLED_HZ = [63, 125, 250, 500, 1000, 2000, 4000, 8000];
export const TICK_HZ = [
	63, 80, 100, 125, 160, 200, 250, 315, 400, 500, 630, 800, 1000, 1250, 1600, 2000, 2500, 3150, 4000, 5000, 6300, 8000,
	10000, 12500
];

export function hz(value: number): string {
	return value >= 1000 ? `${value / 1000} k` : `${value}`;
}
