/** The six regions of a guitar's spectrum as the API keys them, with what players call them. */
export const REGIONS: [key: string, word: string][] = [
	['lows', 'lows'],
	['low_mids', 'low mids'],
	['mids', 'mids'],
	['upper_mids', 'upper mids'],
	['presence', 'presence'],
	['air', 'air']
];
