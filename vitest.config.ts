import { defineConfig } from 'vitest/config';

export default defineConfig({
  test: {
    projects: [
      { test: { name: 'core', include: ['packages/core/**/*.test.ts', 'packages/standin-farm/**/*.test.ts'] } },
      {
        test: {
          name: 'services',
          include: ['packages/{store,engine,launch,web}/**/*.test.ts'],
          globalSetup: ['tests/database.setup.ts'],
          // One database server serves all of them; each file makes a database of its own.
          maxWorkers: 2,
          testTimeout: 30_000,
          hookTimeout: 60_000,
        },
      },
    ],
  },
});
