/** Sending recordings: the one place that does, with progress and a way to stop. */
import { BROWSER_HEADER, browserName } from './api/browser';
import { Problem } from './api/client';

export type Sending = { done: Promise<string>; stop: () => void };
export class Stopped extends Error {}

const NO_ANSWER = 'Cata does not answer. Is it still running?';

/** Send a file as the body of a request; resolves to the answer's text, rejects with the server's own sentence. */
export function send(
	url: string,
	file: File,
	tell: (share: number) => void = () => {},
	sent: () => void = () => {}
): Sending {
	const request = new XMLHttpRequest();
	const done = new Promise<string>((take, fail) => {
		request.open('POST', url);
		request.setRequestHeader('content-type', 'application/octet-stream');
		request.setRequestHeader(BROWSER_HEADER, browserName);
		request.upload.onprogress = (event) => event.lengthComputable && tell(event.loaded / event.total);
		request.upload.onload = sent;
		request.onload = () => (request.status < 300 ? take(request.responseText) : fail(new Problem(reasonIn(request))));
		request.onerror = () => fail(new Problem(NO_ANSWER));
		request.onabort = () => fail(new Stopped());
		request.send(file);
	});
	return { done, stop: () => request.abort() };
}

/** An address with the file's name and whatever else is said; what is null, undefined or empty is left out. */
export function address(path: string, file: File, more: Record<string, unknown> = {}): string {
	const query = new URLSearchParams({ name: file.name });
	for (const [key, value] of Object.entries(more))
		for (const one of Array.isArray(value) ? value : [value])
			if (one !== null && one !== undefined && one !== '') query.append(key, String(one));
	return `${path}?${query}`;
}

function reasonIn(request: XMLHttpRequest): string {
	try {
		return (JSON.parse(request.responseText) as { detail?: string }).detail ?? `Cata answered ${request.status}.`;
	} catch {
		return `Cata answered ${request.status}.`;
	}
}
