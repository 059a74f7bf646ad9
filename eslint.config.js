import js from '@eslint/js';
import svelte from 'eslint-plugin-svelte';
import globals from 'globals';
import ts from 'typescript-eslint';
import svelteConfig from './packages/web/svelte.config.js';

/** Which of our packages each may use; the house's one rule (docs/architecture.md). */
const MAY_USE = {
  core: [],
  disk: ['core'],
  store: ['core'],
  engine: ['core', 'disk', 'store'],
  'standin-farm': ['core', 'disk'],
  launch: ['core', 'disk', 'store', 'engine', 'standin-farm'],
  web: ['core', 'disk', 'store', 'engine'],
};

const PACKAGES = Object.keys(MAY_USE);

/** Forbids a package's code to name any package but those that it may use, by name or by path. */
function directionOf(name) {
  const forbidden = PACKAGES.filter((other) => other !== name && !MAY_USE[name].includes(other));
  const message = `${name} may use ${MAY_USE[name].join(', ') || 'nothing of ours'} only.`;
  const patterns = [
    { group: forbidden.flatMap((other) => [`@mint-tally/${other}`, `@mint-tally/${other}/*`]), message },
    { group: PACKAGES.filter((other) => other !== name).map((other) => `**/packages/${other}/**`), message: 'Use the package by its name.' },
    { group: PACKAGES.map((other) => `@mint-tally/${other}/**`), message: 'Use what the package’s index offers.' },
    { regex: `^(\\.\\./)+(${PACKAGES.join('|')})/src`, message: 'Use the package by its name.' },
  ];
  if (name === 'core') patterns.push({ group: ['node:*'], message: 'core runs in browsers too: it asks its caller for what it needs.' });
  return {
    files: [`packages/${name}/src/**`],
    rules: { 'no-restricted-imports': ['error', { patterns }] },
  };
}

/** What needs the types: a promise that nobody waits for fails where nobody sees it. */
const PROMISES = {
  '@typescript-eslint/no-floating-promises': 'error',
  '@typescript-eslint/no-misused-promises': ['error', { checksVoidReturn: { arguments: false, attributes: false } }],
  '@typescript-eslint/await-thenable': 'error',
};

export default ts.config(
  { ignores: ['**/build/**', '**/.svelte-kit/**', '**/node_modules/**', '.mint/**', 'test-results/**', 'packages/core/src/kernels/compiled.ts'] },
  js.configs.recommended,
  ...ts.configs.recommended,
  ...svelte.configs.recommended,
  {
    languageOptions: { globals: { ...globals.node } },
    rules: {
      // The types are checked by tsc, which knows the names of every environment.
      'no-undef': 'off',
      '@typescript-eslint/no-unused-vars': ['error', { argsIgnorePattern: '^_', varsIgnorePattern: '^_' }],
    },
  },
  {
    files: ['**/*.svelte', '**/*.svelte.ts'],
    languageOptions: {
      parserOptions: {
        parser: ts.parser,
        extraFileExtensions: ['.svelte'],
        svelteConfig,
        projectService: true,
        tsconfigRootDir: import.meta.dirname,
      },
    },
    // There is one server and no base path.
    rules: { 'svelte/no-navigation-without-resolve': 'off', ...PROMISES },
  },
  {
    // Plain values in these files are made and thrown away in one go; nothing watches them.
    files: ['packages/web/src/**'],
    rules: { 'svelte/prefer-svelte-reactivity': 'off' },
  },
  {
    files: ['packages/core/src/**'],
    rules: {
      'no-restricted-globals': [
        'error',
        ...['process', 'Buffer', 'window', 'document', 'setTimeout', 'setInterval', 'fetch'].map((name) => ({
          name,
          message: 'core has no clock, no disk, no page.',
        })),
      ],
    },
  },
  {
    files: [...PACKAGES.map((name) => `packages/${name}/src/**/*.ts`), 'packages/*/tests/**/*.ts', 'tests/**/*.ts'],
    ignores: ['**/*.svelte.ts', 'packages/web/tests/**'],
    languageOptions: {
      parserOptions: {
        projectService: true,
        extraFileExtensions: ['.svelte'],
        tsconfigRootDir: import.meta.dirname,
      },
    },
    rules: PROMISES,
  },
  ...PACKAGES.map(directionOf),
  {
    files: ['packages/web/src/**/*.svelte'],
    ignores: ['packages/web/src/lib/controls/Dialog.svelte'],
    rules: {
      // A button without a type sends the form that it happens to stand in.
      'svelte/button-has-type': 'error',
      '@typescript-eslint/no-restricted-imports': [
        'error',
        {
          paths: [
            {
              name: 'bits-ui',
              importNames: ['Dialog', 'AlertDialog'],
              message: 'Use $lib/controls/Dialog.svelte: nothing in it but its main button sends a form.',
            },
          ],
        },
      ],
    },
  },
);
