/** How a pickup stood, in words. */
import type { StringsHeard } from '$lib/api/client';

export const heights = (row: StringsHeard) =>
	row.bass_mm === null && row.treble_mm === null ? '' : `${row.bass_mm ?? '?'} / ${row.treble_mm ?? '?'} mm`;
