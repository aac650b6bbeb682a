/** Amounts as people type them, to and from integer minor units (two decimals). */

export function toMinor(text: string): number | null {
	const clean = text.replace(/[^\d.,]/g, '');
	if (!clean) return null;
	// The last separator with one or two digits behind it is the decimal one.
	const match = clean.match(/^(.*?)(?:[.,](\d{1,2}))?$/);
	const whole = (match?.[1] ?? '').replace(/[.,]/g, '');
	const cents = (match?.[2] ?? '').padEnd(2, '0');
	const value = Number(whole || '0') * 100 + Number(cents || '0');
	return Number.isSafeInteger(value) ? value : null;
}

export function fromMinor(minor: number | null | undefined): string {
	return minor == null ? '' : (minor / 100).toFixed(2);
}
