/** Keeping a choice as a decision card. */
import { goto } from '$app/navigation';
import { api, got, queries, type CardIn } from '$lib/api/client';
import { notices } from '$lib/notices.svelte';

/** Make a card of a choice as it stands and show it. */
export async function keepCard(asked: CardIn) {
	try {
		const made = await got(api.POST('/api/cards', { body: asked }));
		void queries.invalidateQueries({ queryKey: ['cards'] });
		await goto(`/choose/card/${made.id}`);
	} catch (error) {
		notices.fail(error);
	}
}
