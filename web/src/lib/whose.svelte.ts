/** Whose need a page is about: it stands in the address; without a number it is the one that was looked at last. */
import { goto } from '$app/navigation';
import { page } from '$app/state';
import { createQuery } from '@tanstack/svelte-query';
import { untrack } from 'svelte';
import { api, got } from './api/client';

/** A brief that was looked at in this browser, and of which gear its answer was asked: a kind, or a flight. */
type Seen = { brief: number; kind: string; flight: string };

const KEPT = 'cata-briefs';
const MOST = 50;

function kept(): Seen[] {
	try {
		const found: unknown = JSON.parse(localStorage.getItem(KEPT) ?? '[]');
		return Array.isArray(found) ? found.filter((one): one is Seen => typeof one?.brief === 'number') : [];
	} catch {
		return [];
	}
}

/** Briefs in the order in which this browser looked at them, the last one first. */
class Seens {
	all = $state<Seen[]>(kept());

	of(brief: number): Seen {
		return this.all.find((one) => one.brief === brief) ?? { brief, kind: '', flight: '' };
	}

	note(brief: number, scope: Partial<Seen> = {}) {
		const now = { ...this.of(brief), ...scope };
		const before = this.all[0];
		if (before && before.brief === brief && before.kind === now.kind && before.flight === now.flight) return;
		this.all = [now, ...this.all.filter((one) => one.brief !== brief)].slice(0, MOST);
		try {
			localStorage.setItem(KEPT, JSON.stringify(this.all));
		} catch {
			// Without storage it is known as long as the page lasts.
		}
	}

	/** The one of these that was looked at last, else the first of them. */
	last<T extends { id: number }>(briefs: T[]): T | undefined {
		const seen = this.all.map((one) => briefs.find((brief) => brief.id === one.brief)).find((one) => one);
		return seen ?? briefs[0];
	}
}

export const seens = new Seens();

/** All briefs, and the one that the address names; an address without a number is given one. */
export function useWhose(path: string, proposed: () => number | null | undefined = () => null) {
	const briefs = createQuery(() => ({ queryKey: ['briefs'], queryFn: () => got(api.GET('/api/briefs')) }));
	const asked = $derived(page.params.id ? Number(page.params.id) : null);
	const brief = $derived(briefs.data?.find((one) => one.id === asked));
	$effect(() => {
		if (asked !== null || !briefs.data?.length || proposed() === undefined) return;
		const there = briefs.data.find((one) => one.id === proposed()) ?? untrack(() => seens.last(briefs.data ?? []));
		if (there) void goto(`${path}/${there.id}${location.search}`, { replaceState: true, keepFocus: true });
	});
	$effect(() => {
		if (brief) untrack(() => seens.note(brief.id));
	});
	return {
		get briefs() {
			return briefs;
		},
		get brief() {
			return brief;
		},
		/** True where the address names a brief that is not there. */
		get gone() {
			return asked !== null && briefs.isSuccess && !brief;
		},
		/** True until it is known whose page it is. */
		get waits() {
			return !briefs.data || (asked === null && briefs.data.length > 0);
		}
	};
}
