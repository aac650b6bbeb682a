/** Sending a recording with progress. */
import { Problem } from '$lib/api/client';

/** To an item with its knobs as written, or as a loop-back where there is no item. */
export function sendRecording(
	file: File,
	gear: number | null,
	settings: Record<string, string>,
	nominal: number | null,
	tell: (share: number) => void
): Promise<void> {
	const query = new URLSearchParams({ name: file.name });
	if (nominal !== null && gear !== null) query.set('nominal_dbfs', String(nominal));
	for (const [key, text] of Object.entries(settings)) query.append('settings', `${key}=${text}`);
	const url = gear === null ? `/api/loopbacks?${query}` : `/api/gear/${gear}/probes?${query}`;
	return new Promise((done, fail) => {
		const request = new XMLHttpRequest();
		request.open('POST', url);
		request.upload.onprogress = (event) => event.lengthComputable && tell(event.loaded / event.total);
		request.onload = () => {
			if (request.status < 300) return done();
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

/** The level of somebody's own strumming, in dBFS. */
export async function sendStrumming(file: File): Promise<number> {
	const query = new URLSearchParams({ name: file.name });
	const answer = await fetch(`/api/own-level?${query}`, { method: 'POST', body: file });
	const found = await answer.json().catch(() => null);
	if (!answer.ok) throw new Problem(found?.detail ?? `the recording was not taken (${answer.status})`);
	return found.nominal_dbfs;
}
