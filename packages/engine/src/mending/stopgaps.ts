import type { ListedFile } from '@mint-tally/core';
import { journalsHold, readMends } from './journal.ts';

/**
 * Paths of files that stand in for frames that are to come: those that a mend put there, wherever later ones have moved them,
 * and that nobody has written over since.
 *
 * @param files as they are listed; without sizes their names are believed
 * @throws JournalError
 */
export async function stopgapsIn(folder: string, files: readonly ListedFile[], hasSizes: boolean): Promise<ReadonlySet<string>> {
  if (!(await journalsHold(folder, '"stopgap":true'))) return new Set();
  const held = new Map<string, { readonly size: number; readonly modified?: number }>();
  for (const { head, isUndoing } of await readMends(folder)) {
    if (isUndoing) continue;
    const moved = head.steps.flatMap(({ action, from, to }) => (action === 'write' ? [] : [{ to, was: held.get(from), from }]));
    for (const { from } of moved) held.delete(from);
    for (const { to, was } of moved) if (was) held.set(to, was);
    for (const { stopgap, seen, to } of head.steps) if (stopgap && seen) held.set(to, seen);
  }
  if (held.size === 0) return new Set();
  const still = files.filter(({ path, size, modified }) => {
    const seen = held.get(path);
    // A copy has the time of its original, to what a disk can say of it.
    return seen !== undefined && (!hasSizes || (seen.size === size && Math.abs((seen.modified ?? modified) - modified) <= 1));
  });
  return new Set(still.map(({ path }) => path));
}
