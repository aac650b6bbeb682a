/**
 * A brief as the person sees it while changes are on their way to the server. Each change builds on the one before, they
 * arrive in the order they were made, and an answer that was asked for earlier cannot take a newer change back.
 */
import { api, got, queries, type Brief, type Need } from './api/client';
import { notices } from './notices.svelte';

export class BriefDraft {
	#draft = $state.raw<Brief | null>(null);
	#saves: Promise<unknown> = Promise.resolve();
	#open = 0;

	/** The brief with what is not yet confirmed. */
	over(server: Brief | undefined): Brief | undefined {
		return this.#draft && this.#draft.id === server?.id ? this.#draft : server;
	}

	/** Show a change without keeping it. */
	attempt(brief: Brief, change: Partial<Need>) {
		this.#draft = { ...brief, need: { ...brief.need, ...change } };
	}

	/** Keep a change. */
	keep(brief: Brief, change: Partial<Need> | { name: string }): Promise<unknown> {
		const named = 'name' in change;
		const next = named ? { ...brief, name: change.name } : { ...brief, need: { ...brief.need, ...change } };
		const body = named ? { name: change.name } : { need: next.need };
		this.#draft = next;
		this.#open++;
		this.#saves = this.#saves
			.then(() => got(api.PATCH('/api/briefs/{brief_id}', { params: { path: { brief_id: brief.id } }, body })))
			.catch((error) => notices.fail(error))
			.then(async () => {
				if (this.#open === 1) await queries.refetchQueries({ queryKey: ['briefs'] });
				if (--this.#open === 0) this.#draft = null;
				void queries.invalidateQueries({ queryKey: ['choice'] });
			});
		return this.#saves;
	}
}
