/** Whole minor units as plain digits; what people type is read by the API. */

export function fromMinor(minor: number | null | undefined, decimals: number): string {
	return minor == null ? '' : (minor / 10 ** decimals).toFixed(decimals);
}
