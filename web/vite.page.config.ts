// The player of listening pages: one script that needs nothing beside it.
import { defineConfig } from 'vite';

export default defineConfig({
	publicDir: false,
	build: {
		outDir: '../cata/static',
		emptyOutDir: false,
		lib: { entry: 'src/page/main.ts', formats: ['iife'], name: 'ListeningPage', fileName: () => 'listening-page.js' }
	}
});
