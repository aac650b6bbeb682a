/** Keys: what each does, who listens, and what a person has set instead. No key acts while somebody types. */
export type ActionName =
	| 'play'
	| 'next'
	| 'previous'
	| 'bypass'
	| 'loop'
	| 'loopStart'
	| 'loopEnd'
	| 'school'
	| 'bed'
	| 'tone'
	| 'test'
	| 'byHand'
	| 'earlier'
	| 'later'
	| 'earlierALittle'
	| 'laterALittle'
	| 'earlierALot'
	| 'laterALot'
	| 'samePlace'
	| 'back'
	| 'takeDone'
	| 'takeRedo'
	| 'record'
	| 'playSlate'
	| 'answer'
	| 'neither'
	| 'takeBack'
	| 'more'
	| 'fewer'
	| 'like'
	| 'dislike'
	| 'find'
	| 'part'
	| 'partBack'
	| 'help'
	| 'undo'
	| 'redo';

type Definition = { label: string; keys: string[]; group: 'tray' | 'sheet' | 'page' };
type Listeners = { [name in ActionName]?: () => void };

export const ACTIONS: Record<ActionName, Definition> = {
	play: { label: 'Play or pause', keys: ['Space'], group: 'tray' },
	next: { label: 'Next contender', keys: ['ArrowRight', 'ArrowDown', 'PageDown'], group: 'tray' },
	previous: { label: 'Previous contender', keys: ['ArrowLeft', 'ArrowUp', 'PageUp'], group: 'tray' },
	bypass: { label: 'Bypass and back', keys: ['0'], group: 'tray' },
	loop: { label: 'Loop on or off', keys: ['L'], group: 'tray' },
	loopStart: { label: 'Loop starts here', keys: ['['], group: 'tray' },
	loopEnd: { label: 'Loop ends here', keys: [']'], group: 'tray' },
	school: { label: 'Next level: equal loudness, equal to the ear, as set', keys: ['G'], group: 'tray' },
	bed: { label: 'Alone, or with the bed', keys: ['M'], group: 'tray' },
	tone: { label: 'In one tone, that of what sounds, or as recorded', keys: ['Q'], group: 'tray' },
	test: { label: 'Next test', keys: ['T'], group: 'tray' },
	byHand: { label: 'Line up by hand, or leave that', keys: ['H'], group: 'sheet' },
	earlier: { label: 'By hand: 10 ms earlier', keys: ['Shift+ArrowLeft'], group: 'sheet' },
	later: { label: 'By hand: 10 ms later', keys: ['Shift+ArrowRight'], group: 'sheet' },
	earlierALittle: { label: 'By hand: 1 ms earlier', keys: ['Ctrl+ArrowLeft'], group: 'sheet' },
	laterALittle: { label: 'By hand: 1 ms later', keys: ['Ctrl+ArrowRight'], group: 'sheet' },
	earlierALot: { label: 'By hand: 100 ms earlier', keys: ['Ctrl+Shift+ArrowLeft'], group: 'sheet' },
	laterALot: { label: 'By hand: 100 ms later', keys: ['Ctrl+Shift+ArrowRight'], group: 'sheet' },
	samePlace: { label: 'By hand: mark a place, or the same place as the mark', keys: ['P'], group: 'sheet' },
	back: { label: 'Back to the start (of the loop)', keys: ['Home'], group: 'tray' },
	takeDone: { label: 'Take done, on to the next', keys: ['Enter', 'PageDown', 'ArrowRight'], group: 'sheet' },
	takeRedo: {
		label: 'Back to the take before, to redo it',
		keys: ['Backspace', 'PageUp', 'ArrowLeft'],
		group: 'sheet'
	},
	record: { label: 'Record or stop', keys: ['R'], group: 'sheet' },
	playSlate: { label: 'Play the slate', keys: ['S'], group: 'sheet' },
	answer: { label: 'In a tasting: what sounds is the answer', keys: ['Enter'], group: 'sheet' },
	neither: { label: 'In a tasting: neither', keys: ['E'], group: 'sheet' },
	takeBack: { label: 'In a tasting: take the last answer back', keys: ['Backspace'], group: 'sheet' },
	more: { label: 'In a tasting: more points for what sounds', keys: ['+'], group: 'sheet' },
	fewer: { label: 'In a tasting: fewer points for what sounds', keys: ['-'], group: 'sheet' },
	like: { label: 'Like what sounds', keys: ['+'], group: 'sheet' },
	dislike: { label: 'Do not like what sounds', keys: ['-'], group: 'sheet' },
	find: { label: 'Find anything', keys: ['F'], group: 'page' },
	part: { label: 'To the next part of the page', keys: ['F6'], group: 'page' },
	partBack: { label: 'To the part before', keys: ['Shift+F6'], group: 'page' },
	help: { label: 'Show the keys', keys: ['?'], group: 'page' },
	undo: { label: 'Undo', keys: ['Ctrl+Z'], group: 'page' },
	redo: { label: 'Redo', keys: ['Ctrl+Shift+Z'], group: 'page' }
};

const REPEATING = new Set<ActionName>(['next', 'previous', 'earlier', 'later', 'earlierALittle', 'laterALittle']);
const STORE = 'cata-keys';

/** The name of a key press as it is written in the list. */
export function nameOf(event: KeyboardEvent): string {
	const base = event.key === ' ' ? 'Space' : event.key.length === 1 ? event.key.toUpperCase() : event.key;
	const control = event.ctrlKey || event.metaKey ? 'Ctrl+' : '';
	const shift = event.shiftKey && (control || base.length > 1) ? 'Shift+' : '';
	return `${control}${shift}${base}`;
}

const OWN_ARROWS = '[role=slider], [role=radiogroup], [role=grid], [role=listbox], [data-arrows], summary';

/** True where a key press belongs to the element that has the focus. */
export function isTyping(event: KeyboardEvent): boolean {
	const target = event.target as HTMLElement | null;
	if (!target?.closest) return false;
	// No letter and no caret: it means the same wherever somebody stands, and so it leaves a field too.
	if (event.key === 'F6') return target.closest('dialog[open]') !== null;
	if (target.isContentEditable || target.closest('textarea, select, dialog[open]')) return true;
	if (target instanceof HTMLInputElement) {
		if (target.type === 'range') return /^(Arrow|Page|Home|End)/.test(event.key);
		if (target.type !== 'checkbox' && target.type !== 'radio') return true;
	}
	if (event.key === ' ' && target.closest('button, a, summary, label, input')) return true;
	return event.key.startsWith('Arrow') && target.closest(OWN_ARROWS) !== null;
}

class Keys {
	own = $state<Partial<Record<ActionName, string[]>>>({});
	/** Who listens, the newest last: a page may take a key that the tray has elsewhere, and gives it back when it goes. */
	#listeners: Listeners[] = [];
	#digit: ((digit: number) => void) | null = null;

	constructor() {
		try {
			this.own = JSON.parse(localStorage.getItem(STORE) ?? '{}');
		} catch {
			this.own = {};
		}
	}

	of(name: ActionName): string[] {
		return this.own[name] ?? ACTIONS[name].keys;
	}

	set(name: ActionName, keys: string[] | null) {
		const own = { ...this.own };
		if (keys) own[name] = keys;
		else delete own[name];
		this.own = own;
		try {
			localStorage.setItem(STORE, JSON.stringify(own));
		} catch {
			// Without storage the keys last as long as the page.
		}
	}

	on(actions: Listeners): () => void {
		this.#listeners.push(actions);
		return () => {
			this.#listeners = this.#listeners.filter((one) => one !== actions);
		};
	}

	#listener(name: ActionName): (() => void) | undefined {
		return this.#listeners.findLast((one) => one[name])?.[name];
	}

	onDigit(act: ((digit: number) => void) | null) {
		this.#digit = act;
	}

	press(event: KeyboardEvent) {
		if (event.defaultPrevented || event.altKey || isTyping(event)) return;
		const name = nameOf(event);
		const named = (Object.keys(ACTIONS) as ActionName[]).filter((one) => this.of(one).includes(name));
		// The page's own meaning of a key comes before the tray's.
		const action = named.find((one) => ACTIONS[one].group === 'sheet' && this.#listener(one)) ?? named[0];
		const act = action && this.#listener(action);
		if (act) {
			event.preventDefault();
			// A held key repeats; only stepping is meant to.
			if (!event.repeat || REPEATING.has(action)) act();
		} else if (/^[1-9]$/.test(name) && this.#digit && !event.repeat) {
			event.preventDefault();
			this.#digit(Number(name));
		}
	}
}

export const keys = new Keys();
