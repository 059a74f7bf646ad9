import { mkdirSync } from 'node:fs';
import path from 'node:path';
import type { Config } from '@mint-tally/engine';

/** A configuration for an engine in a test: below one folder, without demo, farm and server. */
export function testConfig(top: string, roots: readonly { name: string; writable: boolean }[], changes: Partial<Config> = {}): Config {
  for (const { name } of roots) mkdirSync(path.join(top, name), { recursive: true });
  return {
    port: 1,
    workers: 1,
    memory: 1e9,
    demo: false,
    farm: false,
    renderServices: [],
    localCommand: null,
    keep: { records: 30, pictures: 14, setAside: 90 },
    dataFolder: path.join(top, 'data'),
    databaseUrl: null,
    roots: roots.map(({ name, writable }) => ({ name, path: path.join(top, name), writable })),
    ...changes,
  };
}
