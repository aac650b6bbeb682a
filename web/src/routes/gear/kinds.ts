/** Kinds of gear in the order of a chain. */
export const KINDS = [
	'guitar',
	'pickup',
	'strings',
	'cable',
	'pedal',
	'amplifier',
	'speaker',
	'direct box',
	'microphone',
	'power supply',
	'accessory'
] as const;
export type Kind = (typeof KINDS)[number];
