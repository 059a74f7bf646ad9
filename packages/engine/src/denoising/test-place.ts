import path from 'node:path';
import type { Config, Root } from '../config/config.ts';

/** Below the data folder. */
const TESTS = 'denoise-tests';

/** Where a test's frames are, and the pictures of what neighbours were kept out of; below the data folder. */
export function testPlace(run: number, strength: number): { readonly pictures: string; readonly ghosts: string } {
  return { pictures: `${TESTS}/${run}/${strength}`, ghosts: `${TESTS}/${run}/${strength}-ghosts` };
}

/** Folders of tests, by run. */
export const testFolder = ({ dataFolder }: Pick<Config, 'dataFolder'>) => path.join(dataFolder, TESTS);

/** Tests lie in no root that a person may name: no such name is allowed. */
export const TESTS_ROOT = '.denoise-tests';

/** What may be looked into: the roots, and the tests of the filters. */
export function rootsToLookInto(config: Pick<Config, 'roots' | 'dataFolder'>): Root[] {
  return [...config.roots, { name: TESTS_ROOT, path: testFolder(config), writable: false }];
}
