/** Sending recordings with progress. */
import { Problem } from '$lib/api/client';

function send(url: string, file: File, tell: (share: number) => void): Promise<string> {
	return new Promise((done, fail) => {
		const request = new XMLHttpRequest();
		request.open('POST', url);
		request.upload.onprogress = (event) => event.lengthComputable && tell(event.loaded / event.total);
		request.onload = () => {
			if (request.status < 300) return done(request.responseText);
			let detail = `the recording was not taken (${request.status})`;
			try {
				detail = JSON.parse(request.responseText).detail ?? detail;
			} catch {
				// The status says enough.
			}
			fail(new Problem(`${file.name}: ${detail}`));
		};
		request.onerror = () => fail(new Problem('Cata does not answer. Is it still running?'));
		request.send(file);
	});
}

/** The test file's answer to an item with its knobs as written, or as a loop-back where there is no item. */
export async function sendRecording(
	file: File,
	gear: number | null,
	settings: Record<string, string>,
	nominal: number | null,
	tell: (share: number) => void
): Promise<void> {
	const query = new URLSearchParams({ name: file.name });
	if (nominal !== null && gear !== null) query.set('nominal_dbfs', String(nominal));
	for (const [key, text] of Object.entries(settings)) query.append('settings', `${key}=${text}`);
	await send(gear === null ? `/api/loopbacks?${query}` : `/api/gear/${gear}/probes?${query}`, file, tell);
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
	const query = new URLSearchParams({ name: file.name });
	for (const [key, value] of Object.entries(stood)) if (value !== null && value !== '') query.set(key, String(value));
	await send(`/api/gear/${gear}/strings?${query}`, file, tell);
}

/** The level of somebody's own strumming, in dBFS. */
export async function sendStrumming(file: File): Promise<number> {
	const query = new URLSearchParams({ name: file.name });
	return JSON.parse(await send(`/api/own-level?${query}`, file, () => {})).nominal_dbfs;
}

/** The level of a recorded calibrating tone, RMS in dBFS. */
export async function sendTone(file: File): Promise<number> {
	const query = new URLSearchParams({ name: file.name });
	return JSON.parse(await send(`/api/tone-level?${query}`, file, () => {})).rms_dbfs;
}
