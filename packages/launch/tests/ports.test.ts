import { createServer } from 'node:net';
import { describe, expect, it } from 'vitest';
import { findFreePort, isPortFree } from '../src/index.ts';

describe('a free port', () => {
  it('is one that no connection is given by chance', async () => {
    const ports = await Promise.all(Array.from({ length: 20 }, findFreePort));
    for (const port of ports) {
      expect(port).toBeGreaterThanOrEqual(20_000);
      expect(port).toBeLessThan(32_768);
    }
    // Not the same one for all who ask at the same time.
    expect(new Set(ports).size).toBeGreaterThan(15);
  });

  it('is free until somebody listens there, and again when they do not', async () => {
    const port = await findFreePort();
    expect(await isPortFree(port)).toBe(true);
    const server = createServer();
    await new Promise<void>((resolve) => server.listen(port, '127.0.0.1', resolve));
    expect(await isPortFree(port)).toBe(false);
    await new Promise((resolve) => server.close(resolve));
    expect(await isPortFree(port)).toBe(true);
  });
});
