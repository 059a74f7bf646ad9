import type { ListedFile } from '../tally/index.ts';
import { isMove, type MendStep } from './steps.ts';

/** A folder's files as they would be listed after a mend. */
export interface ListingAfter {
  readonly files: readonly ListedFile[];
  /** Where each file that is there already stood before, by its path then; what is made or comes from elsewhere is not among them. */
  readonly wasAt: ReadonlyMap<string, string>;
  /** Paths of stopgaps. */
  readonly stopgaps: ReadonlySet<string>;
}

/** What a folder would hold after a mend. */
export function listingAfter(files: readonly ListedFile[], steps: readonly MendStep[]): ListingAfter {
  const byPath = new Map(files.map((file) => [file.path, file]));
  const gone = new Set(steps.filter(isMove).map(({ from }) => from));
  const stay = files.filter(({ path }) => !gone.has(path));
  const wasAt = new Map(stay.map(({ path }) => [path, path]));
  const come = steps.flatMap(({ action, from, to, recipe }): ListedFile[] => {
    if (action === 'set-aside') return [];
    const before = byPath.get(from);
    if (before && !recipe) wasAt.set(to, from);
    return [{ ...(before ?? { size: 0, modified: 0, kind: 'file' }), path: to }];
  });
  return { files: [...stay, ...come], wasAt, stopgaps: new Set(steps.flatMap(({ stopgap, to }) => (stopgap ? [to] : []))) };
}
