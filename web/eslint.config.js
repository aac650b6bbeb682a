import js from '@eslint/js';
import svelte from 'eslint-plugin-svelte';
import globals from 'globals';
import ts from 'typescript-eslint';
import svelteConfig from './svelte.config.js';

export default ts.config(
	js.configs.recommended,
	...ts.configs.recommended,
	...svelte.configs.recommended,
	{ languageOptions: { globals: { ...globals.browser } } },
	{
		files: ['**/*.svelte', '**/*.svelte.ts'],
		languageOptions: { parserOptions: { extraFileExtensions: ['.svelte'], parser: ts.parser, svelteConfig } }
	},
	// Types are checked by svelte-check; this rule only knows names of the browser it was told of.
	{ rules: { 'no-undef': 'off', 'svelte/no-navigation-without-resolve': 'off' } },
	{ ignores: ['src/lib/api/schema.d.ts', '.svelte-kit/', 'build/'] }
);
