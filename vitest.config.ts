import path from 'node:path';
import { svelte } from '@sveltejs/vite-plugin-svelte';
import { defineConfig } from 'vitest/config';

export default defineConfig({
  test: {
    // Most of them wait for a disk, a database or a child process half of the time.
    maxWorkers: 2,
    projects: [
      {
        test: {
          name: 'core',
          include: ['packages/core/**/*.test.ts', 'packages/disk/**/*.test.ts', 'packages/standin-farm/**/*.test.ts', 'tests/*.test.ts'],
          // They keep nothing beyond a test, so the core is read once and not once a file.
          isolate: false,
          testTimeout: 60_000,
        },
      },
      {
        plugins: [svelte({ configFile: path.resolve(import.meta.dirname, 'packages/web/svelte.config.js') })],
        resolve: { alias: { $lib: path.resolve(import.meta.dirname, 'packages/web/src/lib') } },
        test: { name: 'web', include: ['packages/web/tests/**/*.test.ts'] },
      },
      {
        test: {
          name: 'services',
          include: ['packages/store/**/*.test.ts', 'packages/engine/**/*.test.ts', 'packages/launch/**/*.test.ts'],
          globalSetup: ['tests/support/global-setup.ts'],
          testTimeout: 60_000,
          hookTimeout: 120_000,
        },
      },
    ],
  },
});
