import { pathsOfFrame, rowsOfPass, type FileTable } from '@mint-tally/core';
import { readFileTable, readStateKey } from '@mint-tally/store';
import { LRUCache } from 'lru-cache';
import { services } from './services';

/** Rows that are kept in memory for the shots that were looked at last: of about 150 bytes each. */
const MOST_ROWS = 600_000;

const kept = new LRUCache<string, Promise<FileTable | null>>({ max: 32 });
const sizes = new LRUCache<string, number>({ maxSize: MOST_ROWS, sizeCalculation: (rows) => rows + 1, dispose: (_, key) => kept.delete(key) });

/**
 * The files of the shot's newest count; null before the first. Read once for as long as nothing of the shot changes.
 *
 * @param stateKey of the shot as it is now
 */
export async function loadFileTable(shotId: number, stateKey: string | null): Promise<FileTable | null> {
  const { database } = services();
  const key = `${shotId} ${stateKey ?? ''}`;
  const known = kept.get(key);
  if (known) {
    sizes.get(key);
    return known;
  }
  const reading = readFileTable(database, shotId);
  kept.set(key, reading);
  try {
    const table = await reading;
    sizes.set(key, Math.min(MOST_ROWS - 1, table?.path.length ?? 0));
    return table;
  } catch (thrown) {
    kept.delete(key);
    throw thrown;
  }
}

/** Mean bytes of a file of each pass, as far as some have been counted. */
export async function meanBytes(shotId: number, stateKey: string): Promise<Record<string, number>> {
  const table = await loadFileTable(shotId, stateKey);
  const means: Record<string, number> = {};
  for (const name of table?.passes ?? []) {
    const [from, to] = rowsOfPass(table!, name);
    let sum = 0;
    for (let row = from; row < to; row++) sum += table!.size[row];
    if (to > from) means[name] = sum / (to - from);
  }
  return means;
}

/** The files that stand for a frame; before the first count the one that is named as ordered. */
export async function pathsFor(shotId: number, owner: string, frame: number, asOrdered: string): Promise<string[]> {
  const table = await loadFileTable(shotId, await readStateKey(services().database, shotId));
  return table ? pathsOfFrame(table, owner, frame) : [asOrdered];
}
