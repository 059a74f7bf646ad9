import { MintError, sayMend, type MendWish } from '@mint-tally/core';
import { findRoot, planMend, readMends, resolveInside } from '@mint-tally/engine';
import { findShot, listMends } from '@mint-tally/store';
import type { LedgerView, PreviewView } from '$lib/mend/mend-view';
import { needBrief } from './frames';
import { services } from './services';

/** Steps and conflicts that a page is sent. */
const SHOWN = 300;
const SHOWN_MENDS = 50;

async function folderOf(shotId: number) {
  const { database, config } = services();
  const shot = await findShot(database, shotId);
  if (!shot) throw new MintError('not-found', 'There is no such shot.');
  const root = findRoot(config.roots, shot.root);
  return { folder: resolveInside(root, shot.folder), isWritable: root.writable };
}

/** What the page of mends shows: how much there is of each, one of them in full, and what was done. @throws MintError */
export async function readMendPage(shotId: number, wish: MendWish | null) {
  const [{ folder, isWritable }, { brief }, ledger] = await Promise.all([
    folderOf(shotId),
    needBrief(shotId),
    listMends(services().database, shotId, SHOWN_MENDS),
  ]);
  const previewOf = async (one: MendWish): Promise<PreviewView> => {
    const { steps, conflicts, seen } = await planMend({ folder, brief, wish: one, kept: new Set(), now: Date.now() });
    return {
      ...{ wish: one, says: sayMend(one), seen },
      steps: steps.slice(0, SHOWN),
      stepCount: steps.length,
      conflicts: conflicts.slice(0, SHOWN),
      conflictCount: conflicts.length,
    };
  };
  const [rename, trim] = await Promise.all([previewOf({ kind: 'rename', aside: [] }), previewOf({ kind: 'trim' })]);
  const mends = await readMends(folder);
  const newest = mends.at(-1) ?? null;
  const unfinished = newest && (!newest.isEnded || newest.isUndoing) ? newest : null;
  return {
    isWritable,
    rename: { steps: rename.stepCount, conflicts: rename.conflictCount },
    trim: { steps: trim.stepCount, conflicts: trim.conflictCount },
    preview: wish && (wish.kind === 'rename' && wish.aside.length === 0 ? rename : wish.kind === 'trim' ? trim : await previewOf(wish)),
    unfinished: unfinished && {
      says: unfinished.head.says,
      isUndoing: unfinished.isUndoing,
      done: unfinished.done.size - unfinished.undone.size,
      total: unfinished.head.moves.length,
    },
    /** A mend of this folder that the ledger does not know, such as one of the command line. */
    other:
      newest && newest.isEnded && !ledger.some(({ journal, undoneAt }) => journal === newest.head.id && undoneAt === null)
        ? { says: newest.head.says, at: newest.head.at }
        : null,
    ledger: ledger.map(({ id, says, files, at, actor, undoneAt, undoneBy, journal }): LedgerView => ({
      ...{ id, says, files, actor, undoneBy },
      at: at.toISOString(),
      undoneAt: undoneAt?.toISOString() ?? null,
      canBeTakenBack: undoneAt === null && newest?.head.id === journal,
    })),
  };
}
