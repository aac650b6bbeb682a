/** What marks a take that is dragged within the page, as against a file from outside. */
export const INTERNAL = 'application/x-cata-take';

export type Cell = { contender: number; test: number; repeat?: number };
