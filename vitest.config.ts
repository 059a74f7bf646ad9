import { defineConfig } from 'vitest/config';

export default defineConfig({
  test: {
    projects: [
      { test: { name: 'core', include: ['packages/core/**/*.test.ts', 'packages/standin-farm/**/*.test.ts'] } },
      { test: { name: 'engine', include: ['packages/engine/**/*.test.ts'], testTimeout: 30_000 } },
    ],
  },
});
