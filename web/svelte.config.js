import adapter from '@sveltejs/adapter-static';
import { vitePreprocess } from '@sveltejs/vite-plugin-svelte';

/** @type {import('@sveltejs/kit').Config} */
export default {
	preprocess: vitePreprocess(),
	kit: {
		adapter: adapter({ pages: '../cata/static', assets: '../cata/static', fallback: 'index.html' }),
		// The server's policy allows scripts from this origin only, so nothing may be inline.
		output: { bundleStrategy: 'split' },
		inlineStyleThreshold: 0,
		version: { pollInterval: 0 }
	}
};
