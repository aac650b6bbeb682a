/** What can be asked in a round, as a person reads it. */
import type { Round } from '$lib/api/client';

export type Kind = Round['kind'];
export const KINDS: { kind: Kind; title: string; about: string }[] = [
	{ kind: 'identify', title: 'Can it be told at all?', about: 'X is one of two. Which one?' },
	{ kind: 'prefer', title: 'Which is liked more?', about: 'Pair by pair; the next pair is the one that tells most.' },
	{
		kind: 'rate',
		title: 'How near to one of them?',
		about: 'Points from 0 to 100, with that one hidden among the glasses, and twice more dulled: much and a little.'
	},
	{ kind: 'notes', title: 'What does it sound like?', about: 'Words for each glass, typed or picked.' }
];
export const titleOf = (kind: Kind) => KINDS.find((one) => one.kind === kind)?.title ?? kind;
