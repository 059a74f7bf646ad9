import path from 'node:path';
import { svelte } from '@sveltejs/vite-plugin-svelte';
import { defineConfig } from 'vitest/config';

// No test asserts speed by these: they say when a wait is hopeless, also on a machine that stalls.
const PATIENT = { testTimeout: 180_000, hookTimeout: 240_000 };

export default defineConfig({
  test: {
    // Most of them wait for a disk, a database or a child process half of the time.
    maxWorkers: 2,
    // What tests begin they end: so what they import is read once for each worker, and not once a file.
    projects: [
      {
        test: {
          name: 'core',
          include: ['packages/core/**/*.test.ts', 'packages/disk/**/*.test.ts', 'packages/standin-farm/**/*.test.ts', 'tests/*.test.ts'],
          isolate: false,
          ...PATIENT,
        },
      },
      {
        plugins: [svelte({ configFile: path.resolve(import.meta.dirname, 'packages/web/svelte.config.js') })],
        resolve: { alias: { $lib: path.resolve(import.meta.dirname, 'packages/web/src/lib') } },
        test: { name: 'web', include: ['packages/web/tests/**/*.test.ts'], isolate: false, ...PATIENT },
      },
      {
        test: {
          name: 'services',
          isolate: false,
          include: ['packages/store/**/*.test.ts', 'packages/engine/**/*.test.ts', 'packages/launch/**/*.test.ts'],
          globalSetup: ['tests/support/global-setup.ts'],
          ...PATIENT,
        },
      },
    ],
  },
});
