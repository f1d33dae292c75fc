import svelte from 'eslint-plugin-svelte';
import globals from 'globals';
import ts from 'typescript-eslint';
import svelteConfig from './svelte.config.js';

export default ts.config(
  { ignores: ['built/', 'node_modules/', 'src/engine/wasm_exec.js', 'src/lib/api/schema.d.ts', 'src/lib/*.gen.ts'] },
  ...ts.configs.recommended,
  ...svelte.configs.recommended,
  { languageOptions: { globals: { ...globals.browser, ...globals.node } } },
  {
    files: ['**/*.svelte', '**/*.svelte.ts'],
    // Without the types of the project, which make minutes of its seconds: those are what svelte-check looks at.
    languageOptions: { parserOptions: { extraFileExtensions: ['.svelte'], parser: ts.parser, svelteConfig } },
  },
  {
    rules: {
      '@typescript-eslint/no-unused-vars': ['error', { argsIgnorePattern: '^_' }],
      // Addresses are made by house.path() and the router; there is no base path to resolve against.
      'svelte/no-navigation-without-resolve': 'off',
      // What is built for one use only is not watched by anything.
      'svelte/prefer-svelte-reactivity': 'off',
      'max-len': ['error', { code: 140, ignoreUrls: true }],
    },
  },
);
