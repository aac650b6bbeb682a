/**
 * Many controls, one tab stop: arrows move among them as they lie on the screen, Tab leaves them. Where a control needs
 * the arrows itself (a knob, a list to choose from, the caret of a field) Ctrl and an arrow moves. When the control that
 * has the focus goes, its neighbour takes the focus, so that work goes on where it was.
 */
const CONTROLS = 'a[href], button, input, select, textarea, summary, [tabindex]';
const OWN = 'select, input[type=range], input[type=radio], textarea, [role=slider], [role=listbox], [contenteditable]';
const ACROSS = 3;

/** Elements whose tab stop was taken by a group, as against those that never had one. */
const taken = new WeakSet<Element>();

/** What a closed fold holds has a place, but cannot be seen. */
const seen = (element: Element) => element.checkVisibility() && !element.closest('[inert]');

/** Controls that can be reached, in the order in which they stand; those of a group too, whether or not it has stopped there. */
export function controlsIn(node: Element): HTMLElement[] {
	return [...node.querySelectorAll<HTMLElement>(CONTROLS)].filter(
		(one) => !one.matches(':disabled') && (one.tabIndex >= 0 || taken.has(one)) && seen(one)
	);
}

/** The control that lies next in a direction: near, and in line rather than askew. */
export function neighbour(from: DOMRect, among: HTMLElement[], key: string): HTMLElement | null {
	let best: HTMLElement | null = null;
	let least = Infinity;
	for (const one of among) {
		const box = one.getBoundingClientRect();
		const ahead =
			key === 'ArrowRight'
				? box.left - from.right
				: key === 'ArrowLeft'
					? from.left - box.right
					: key === 'ArrowDown'
						? box.top - from.bottom
						: from.top - box.bottom;
		if (ahead < -4) continue;
		const sideways = key === 'ArrowRight' || key === 'ArrowLeft';
		const askew = sideways
			? Math.max(0, box.top - from.bottom, from.top - box.bottom)
			: Math.max(0, box.left - from.right, from.left - box.right);
		// Of two that are as far the one whose edges agree: the same button of the next row.
		const edge = sideways ? Math.abs(box.top - from.top) : Math.abs(box.left - from.left);
		const far = Math.max(0, ahead) + ACROSS * askew + edge / 50;
		if (far < least) [best, least] = [one, far];
	}
	return best;
}

function keepsArrow(target: HTMLElement, key: string): boolean {
	if (target.matches(OWN)) return true;
	const writes = target instanceof HTMLInputElement && target.type !== 'checkbox' && target.type !== 'button';
	return writes && (key === 'ArrowLeft' || key === 'ArrowRight' || target.list !== null);
}

export function arrows(node: HTMLElement) {
	let now: HTMLElement | null = null;
	let place = 0;
	let within = false;
	/** A group inside another is a part of it: the outer one alone moves. */
	const inner = () => node.parentElement?.closest('[data-arrows]');

	function stop(at: HTMLElement | undefined, all: HTMLElement[]) {
		for (const one of all) {
			if (one === at) {
				if (one.tabIndex !== 0) one.tabIndex = 0;
			} else if (one.tabIndex !== -1) {
				taken.add(one);
				one.tabIndex = -1;
			}
		}
		now = at ?? null;
		place = at ? all.indexOf(at) : 0;
	}

	function settle() {
		if (inner()) return;
		const all = controlsIn(node);
		const here = now && all.includes(now) ? now : (all[Math.min(place, all.length - 1)] ?? undefined);
		const lost = within && now !== here && (document.activeElement === document.body || !document.activeElement);
		stop(here, all);
		if (lost) here?.focus();
	}

	const focused = (event: FocusEvent) => {
		within = true;
		if (inner()) return;
		stop(event.target as HTMLElement, controlsIn(node));
	};
	// What goes away is not left: only where the control is still there has somebody moved on.
	const left = (event: FocusEvent) =>
		queueMicrotask(() => {
			const target = event.target as HTMLElement;
			if (target.isConnected && !target.matches(':disabled') && !node.contains(document.activeElement)) within = false;
		});
	const pressed = (event: KeyboardEvent) => {
		if (!event.key.startsWith('Arrow') || event.altKey || event.shiftKey || event.defaultPrevented || inner()) return;
		const target = event.target as HTMLElement;
		if (!event.ctrlKey && keepsArrow(target, event.key)) return;
		const others = controlsIn(node).filter((one) => one !== target && !one.contains(target) && !target.contains(one));
		event.preventDefault();
		event.stopPropagation();
		const from = target.getBoundingClientRect();
		// In a table left and right stay in the row, as long as it has something there.
		const row = event.key === 'ArrowLeft' || event.key === 'ArrowRight' ? target.closest('tr') : null;
		const beside =
			row &&
			neighbour(
				from,
				others.filter((one) => row.contains(one)),
				event.key
			);
		(beside ?? neighbour(from, others, event.key))?.focus();
	};

	node.setAttribute('data-arrows', '');
	node.addEventListener('focusin', focused);
	node.addEventListener('focusout', left);
	node.addEventListener('keydown', pressed);
	const watch = new MutationObserver(settle);
	watch.observe(node, {
		childList: true,
		subtree: true,
		attributes: true,
		attributeFilter: ['disabled', 'open', 'hidden']
	});
	settle();
	return () => {
		watch.disconnect();
		node.removeEventListener('focusin', focused);
		node.removeEventListener('focusout', left);
		node.removeEventListener('keydown', pressed);
	};
}

const PARTS =
	'header nav, header, main nav, main section, main form, main table, main details, main [data-arrows], [data-part]';

/** To the first control of the next part of the page, or of the part before. */
export function nextPart(step: 1 | -1) {
	const firsts: HTMLElement[] = [];
	for (const part of document.querySelectorAll<HTMLElement>(PARTS)) {
		const first = controlsIn(part).find((one) => one.tabIndex >= 0);
		if (first && !firsts.includes(first)) firsts.push(first);
	}
	firsts.sort((a, b) => (a.compareDocumentPosition(b) & Node.DOCUMENT_POSITION_FOLLOWING ? -1 : 1));
	const here = document.activeElement ?? document.body;
	const after = firsts.filter((one) => here.compareDocumentPosition(one) & Node.DOCUMENT_POSITION_FOLLOWING);
	const before = firsts.filter((one) => here.compareDocumentPosition(one) & Node.DOCUMENT_POSITION_PRECEDING);
	const to = step > 0 ? (after[0] ?? firsts[0]) : (before.at(-1) ?? firsts.at(-1));
	to?.focus();
	to?.scrollIntoView({ block: 'nearest' });
}
