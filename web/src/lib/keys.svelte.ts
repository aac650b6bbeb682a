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
	| 'test'
	| 'back'
	| 'help'
	| 'undo'
	| 'redo';

type Definition = { label: string; keys: string[]; group: 'tray' | 'page' };

export const ACTIONS: Record<ActionName, Definition> = {
	play: { label: 'Play or pause', keys: ['Space'], group: 'tray' },
	next: { label: 'Next contender', keys: ['ArrowRight', 'ArrowDown', 'PageDown'], group: 'tray' },
	previous: { label: 'Previous contender', keys: ['ArrowLeft', 'ArrowUp', 'PageUp'], group: 'tray' },
	bypass: { label: 'Bypass and back', keys: ['0'], group: 'tray' },
	loop: { label: 'Loop on or off', keys: ['L'], group: 'tray' },
	loopStart: { label: 'Loop starts here', keys: ['['], group: 'tray' },
	loopEnd: { label: 'Loop ends here', keys: [']'], group: 'tray' },
	school: { label: 'Equal loudness or as set', keys: ['G'], group: 'tray' },
	test: { label: 'Next test', keys: ['T'], group: 'tray' },
	back: { label: 'Back to the start (of the loop)', keys: ['Home'], group: 'tray' },
	help: { label: 'Show the keys', keys: ['?'], group: 'page' },
	undo: { label: 'Undo', keys: ['Ctrl+Z'], group: 'page' },
	redo: { label: 'Redo', keys: ['Ctrl+Shift+Z'], group: 'page' }
};

const STORE = 'cata-keys';

/** The name of a key press as it is written in the list. */
export function nameOf(event: KeyboardEvent): string {
	const base = event.key === ' ' ? 'Space' : event.key.length === 1 ? event.key.toUpperCase() : event.key;
	const control = event.ctrlKey || event.metaKey ? 'Ctrl+' : '';
	const shift = event.shiftKey && (control || base.length > 1) ? 'Shift+' : '';
	return `${control}${shift}${base}`;
}

const OWN_ARROWS = '[role=slider], [role=radiogroup], [role=grid], [role=listbox], summary';

/** True where a key press belongs to the element that has the focus. */
export function isTyping(event: KeyboardEvent): boolean {
	const target = event.target as HTMLElement | null;
	if (!target?.closest) return false;
	if (target.isContentEditable || target.closest('textarea, select, dialog[open]')) return true;
	if (target instanceof HTMLInputElement) {
		if (target.type === 'range') return event.key.startsWith('Arrow') || event.key.startsWith('Page');
		return target.type !== 'checkbox' && target.type !== 'radio';
	}
	if (event.key === ' ' && target.closest('button, a, summary, label')) return true;
	return event.key.startsWith('Arrow') && target.closest(OWN_ARROWS) !== null;
}

class Keys {
	own = $state<Partial<Record<ActionName, string[]>>>({});
	#listeners: { [name in ActionName]?: () => void } = {};
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

	on(actions: { [name in ActionName]?: () => void }): () => void {
		Object.assign(this.#listeners, actions);
		return () => {
			for (const name of Object.keys(actions) as ActionName[]) delete this.#listeners[name];
		};
	}

	onDigit(act: ((digit: number) => void) | null) {
		this.#digit = act;
	}

	press(event: KeyboardEvent) {
		if (event.defaultPrevented || event.altKey || isTyping(event)) return;
		const name = nameOf(event);
		const action = (Object.keys(ACTIONS) as ActionName[]).find((one) => this.of(one).includes(name));
		if (action && this.#listeners[action]) {
			event.preventDefault();
			// A held key repeats; only stepping is meant to.
			if (!event.repeat || action === 'next' || action === 'previous') this.#listeners[action]?.();
		} else if (/^[1-9]$/.test(name) && this.#digit && !event.repeat) {
			event.preventDefault();
			this.#digit(Number(name));
		}
	}
}

export const keys = new Keys();
