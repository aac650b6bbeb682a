/** What the program knows of itself: readings, sounds, rules, what can be chosen, and how long texts may be. */
import { createQuery } from '@tanstack/svelte-query';
import { api, got } from '$lib/api/client';

export const metaQuery = { queryKey: ['meta'], queryFn: () => got(api.GET('/api/meta')), staleTime: Infinity };
export const useMeta = () => createQuery(() => metaQuery);
