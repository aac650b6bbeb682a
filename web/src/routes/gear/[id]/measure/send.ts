/** What is sent to an item's page: answers to the test file, strings, strumming, tones. */
import { address, send } from '$lib/upload';

/** The test file's answer to an item with its knobs as written, or as a loop-back where there is no item. */
export async function sendRecording(
	file: File,
	gear: number | null,
	settings: Record<string, string>,
	nominal: number | null,
	fullScale: string | null,
	tell: (share: number) => void
): Promise<void> {
	const knobs = Object.entries(settings).map(([key, text]) => `${key}=${text}`);
	const made = gear === null ? {} : { settings: knobs, nominal_dbfs: nominal, full_scale: fullScale };
	await send(address(gear === null ? '/api/loopbacks' : `/api/gear/${gear}/probes`, file, made), file, tell).done;
}

/** How a pickup stood while its strings were recorded. */
export type Stood = {
	position: '' | 'bridge' | 'middle' | 'neck';
	bass_mm: number | null;
	treble_mm: number | null;
	tone_mv: number | null;
	tone_dbfs: number | null;
	flat: boolean;
};

/** Six open strings through a pickup. */
export async function sendStrings(file: File, gear: number, stood: Stood, tell: (share: number) => void) {
	await send(address(`/api/gear/${gear}/strings`, file, stood), file, tell).done;
}

/** The level of somebody's own strumming, in dBFS. */
export async function sendStrumming(file: File): Promise<number> {
	return JSON.parse(await send(address('/api/own-level', file), file).done).nominal_dbfs;
}

/** The level of a recorded calibrating tone, RMS in dBFS. */
export async function sendTone(file: File): Promise<number> {
	return JSON.parse(await send(address('/api/tone-level', file), file).done).rms_dbfs;
}
