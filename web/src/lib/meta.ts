/** What the program knows of itself: readings, sounds, rules, what can be chosen, and how long texts may be. */
import { createQuery } from '@tanstack/svelte-query';
import { library } from '$lib/api/browser';
import { api, got } from '$lib/api/client';

export const metaQuery = { queryKey: ['meta'], queryFn: ask, staleTime: Infinity };

async function ask() {
	const meta = await got(api.GET('/api/meta'));
	// Of the first answer: what is open later at this address is another matter.
	library.name ||= meta.library;
	return meta;
}

export const useMeta = () => createQuery(() => metaQuery);
