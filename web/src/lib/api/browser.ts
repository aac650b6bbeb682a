/** This browser's name: what is done in it, in any of its tabs, its own undo takes back, and nobody else's. */
const STORE = 'cata-browser';

function named(): string {
	const known = localStorage.getItem(STORE);
	if (known) return known;
	const fresh = Array.from(crypto.getRandomValues(new Uint8Array(12)), (one) => one.toString(16).padStart(2, '0'));
	localStorage.setItem(STORE, fresh.join(''));
	return fresh.join('');
}

export const BROWSER_HEADER = 'x-cata-browser';
export const browserName = named();

// What a page links to or plays is asked for without that header.
document.cookie = `${STORE}=${browserName}; path=/; max-age=31536000; samesite=strict`;

/**
 * The library that this page was made of. Where another is open at the same address by now (a restored backup, the demo),
 * its numbers mean other things: the server then refuses, and the page has to be loaded anew.
 */
export const LIBRARY_HEADER = 'x-cata-library';
export const library = { name: '' };
