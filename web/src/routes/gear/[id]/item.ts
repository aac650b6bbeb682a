/** What the parts of an item's page share. */
import type { Control, Gear } from '$lib/api/client';

export type GearPatch = {
	name?: string;
	about?: string;
	structure?: string;
	controls?: Control[];
	specs?: Record<string, string | number | boolean>;
};
export type Keep = (call: Promise<Gear>) => Promise<boolean>;
export type Change = (body: GearPatch) => Promise<boolean>;
