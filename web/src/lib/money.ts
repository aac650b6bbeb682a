/** Amounts as people type them, to and from whole minor units; how many decimals a currency has comes from the API. */

export function toMinor(text: string, decimals: number): number | null {
	const clean = text.replace(/[^\d.,]/g, '');
	if (!clean) return null;
	// The last separator with at most the currency's decimals behind it is the decimal one.
	const match = decimals ? clean.match(new RegExp(`^(.*?)(?:[.,](\\d{1,${decimals}}))?$`)) : null;
	const whole = (match?.[1] ?? clean).replace(/[.,]/g, '');
	const value = Number((whole || '0') + (match?.[2] ?? '').padEnd(decimals, '0'));
	return Number.isSafeInteger(value) ? value : null;
}

export function fromMinor(minor: number | null | undefined, decimals: number): string {
	return minor == null ? '' : (minor / 10 ** decimals).toFixed(decimals);
}
