/** A brief while changes of it are on their way. */
import { api, got, queries, type Brief, type Need } from './api/client';
import { Draft } from './draft.svelte';

const withNeed = (brief: Brief, change: Partial<Need>): Brief => ({ ...brief, need: { ...brief.need, ...change } });

export class BriefDraft {
	#draft = new Draft<Brief>(() => queries.refetchQueries({ queryKey: ['briefs'] }));

	/** The brief with what is not yet confirmed. */
	over(server: Brief | undefined): Brief | undefined {
		const held = this.#draft.held;
		return held && held.id === server?.id ? held : server;
	}

	/** Show a change without keeping it. */
	attempt(brief: Brief, change: Partial<Need>) {
		this.#draft.attempt(withNeed(brief, change));
	}

	/** Keep a change. */
	async keep(brief: Brief, change: Partial<Need> | { name: string }) {
		const named = 'name' in change;
		const next = named ? { ...brief, name: change.name } : withNeed(brief, change);
		const body = named ? { name: change.name } : { need: next.need };
		const path = { brief_id: brief.id };
		await this.#draft.keep(next, () => got(api.PATCH('/api/briefs/{brief_id}', { params: { path }, body })));
		void queries.invalidateQueries({ queryKey: ['choice'] });
	}
}
