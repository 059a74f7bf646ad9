import { asidePath, type MendPlan, type MendStep } from '../steps.ts';

/**
 * Brings back what a mend set aside.
 *
 * @param steps what the mend did
 * @param paths which of the files, by the paths that they had; all of them where none is named
 * @param isKept whether a file still lies in the set-aside
 * @param instead files that were given up for those that come back
 */
export function planRestore(mend: string, steps: readonly MendStep[], paths: readonly string[], isKept: (path: string) => boolean): MendPlan {
  const wanted = new Set(paths);
  const set = steps.filter(({ action, from }) => action === 'set-aside' && (wanted.size === 0 || wanted.has(from)));
  const kept = set.filter(({ from }) => isKept(asidePath(mend, from)));
  const named = new Set(set.map(({ from }) => from));
  return {
    steps: kept.map(({ from, reason }): MendStep => ({ action: 'rename', from: asidePath(mend, from), to: from, reason: `it was set aside: ${reason}` })),
    conflicts: [...wanted].filter((path) => !named.has(path)).map((path) => ({ files: [path], message: `${path} is not kept in ${mend}.` })),
  };
}
