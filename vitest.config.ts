import { defineConfig } from 'vitest/config';

export default defineConfig({
  test: {
    projects: [
      { test: { name: 'core', include: ['packages/core/**/*.test.ts', 'packages/standin-farm/**/*.test.ts'] } },
      {
        test: {
          name: 'services',
          include: ['packages/store/**/*.test.ts', 'packages/engine/**/*.test.ts', 'packages/launch/**/*.test.ts'],
          globalSetup: ['tests/support/global-setup.ts'],
          testTimeout: 30_000,
          hookTimeout: 60_000,
        },
      },
    ],
  },
});
