import {
  describeError,
  formatFrameRange,
  FrameSet,
  mapFrames,
  MintError,
  parseFrameRange,
  parseFrameRate,
  sayFrameMap,
  sayMend,
  type Brief,
  type MendPlan,
  type MendWish,
} from '@mint-tally/core';
import { findRoot, goesAt, keptIn, planMend, readMends, resolveInside, soundFrames, type MendRecord } from '@mint-tally/engine';
import { findShot, listMends, readMendPreview, type MendPreview } from '@mint-tally/store';
import type { KeptView, LedgerView, PreviewView, WordView } from '$lib/mend/mend-view';
import { needBrief } from './frames';
import { lanesAfter } from './lanes-after';
import { readList } from './mend-list';
import { services } from './services';

/** Steps, conflicts, words and kept files that a page is sent, of each. */
const SHOWN = 300;
const SHOWN_MENDS = 50;

async function folderOf(shotId: number) {
  const { database, config } = services();
  const shot = await findShot(database, shotId);
  if (!shot) throw new MintError('not-found', 'There is no such shot.');
  const root = findRoot(config.roots, shot.root);
  return { folder: resolveInside(root, shot.folder), isWritable: root.writable };
}

/** Mends that are worked out while a page is made; the others take looking into files. */
const isQuick = ({ kind }: MendWish) => kind !== 'patch' && kind !== 'convert';

/** What the page of mends shows: how much there is of each, one of them in full, what is listed, kept and done. @throws MintError */
export async function readMendPage(shotId: number, { wish, problem }: { wish: MendWish | null; problem: string }, shown: string) {
  const { database, config } = services();
  const [{ folder, isWritable }, { brief }, ledger, list, kept, mends, stored, isSound] = await Promise.all([
    folderOf(shotId),
    needBrief(shotId),
    listMends(database, shotId, SHOWN_MENDS),
    readList(shotId),
    folderOf(shotId).then((place) => keptIn(place.folder)),
    folderOf(shotId).then((place) => readMends(place.folder)),
    shown === 'patch' || shown === 'convert' ? readMendPreview(database, shotId) : null,
    soundFrames(database, shotId),
  ]);
  const plan = (one: MendWish) => planMend({ folder, brief, wish: one, kept: new Set(), now: Date.now(), isSound });
  const countOf = async (one: MendWish) => {
    const { steps, conflicts } = await plan(one);
    return { steps: steps.length, conflicts: conflicts.length };
  };
  const [rename, trim, hold] = await Promise.all([
    countOf({ kind: 'rename', aside: [] }),
    countOf({ kind: 'trim', frames: '', passes: [] }),
    countOf({ kind: 'hold', frames: '', passes: [] }),
  ]);
  let cannot = problem;
  const quick = async (one: MendWish) => {
    try {
      return { ...(await plan(one)), wish: one, refused: [], words: [], notes: notesOf(one, brief) };
    } catch (thrown) {
      if (!(thrown instanceof MintError)) throw thrown;
      cannot = describeError(thrown);
      return null;
    }
  };
  const ready = wish && isQuick(wish) ? await quick(wish) : stored?.wish.kind === shown ? stored : null;
  const newest = mends.at(-1) ?? null;
  const unfinished = newest && (!newest.isEnded || newest.isUndoing) ? newest : null;
  return {
    isWritable,
    problem: cannot,
    ...{ rename, trim, hold, list },
    kept: kept.map((one) => keptView(one, config.keep.setAside)),
    preview: ready && { ...viewOf(ready), lanes: await lanesAfter(shotId, folder, brief, ready.steps) },
    unfinished: unfinished && {
      journal: unfinished.head.id,
      says: unfinished.head.says,
      isUndoing: unfinished.isUndoing,
      done: unfinished.done.size - unfinished.undone.size,
      total: unfinished.head.moves.length,
    },
    /** A mend of this folder that the ledger does not know, such as one of the command line. */
    other:
      newest && newest.isEnded && !ledger.some(({ journal, undoneAt }) => journal === newest.head.id && undoneAt === null)
        ? { journal: newest.head.id, says: newest.head.says, at: newest.head.at }
        : null,
    ledger: ledger.map(({ id, says, files, at, actor, undoneAt, undoneBy, journal }): LedgerView => ({
      ...{ id, says, files, actor, undoneBy },
      at: at.toISOString(),
      undoneAt: undoneAt?.toISOString() ?? null,
      undo: undoneAt === null && newest?.head.id === journal && newest.letGoAt === null ? journal : null,
    })),
  };
}

/** What is said of a whole mend before it is looked at file by file. */
function notesOf(wish: MendWish, { range, fps = '24' }: Brief): string[] {
  if (wish.kind !== 'conform') return [];
  const [frames, from, to] = [parseFrameRange(range), parseFrameRate(fps), parseFrameRate(wish.fps)];
  return sayFrameMap(mapFrames(frames, from, to), frames.size, from, to);
}

function viewOf({ wish, seen, steps, conflicts, refused, words, notes }: Omit<MendPreview, 'madeAt'> & MendPlan): Omit<PreviewView, 'lanes'> {
  return {
    ...{ wish, says: sayMend(wish), seen, notes },
    // What a page shows of a step is what it does; how is for whoever carries it out.
    steps: steps.slice(0, SHOWN).map(({ action, from, to, reason, stopgap }) => ({ action, from, to, reason, ...(stopgap ? { stopgap } : {}) })),
    stepCount: steps.length,
    writeCount: steps.filter(({ action }) => action === 'write').length,
    conflicts: conflicts.slice(0, SHOWN),
    conflictCount: conflicts.length,
    refused: joined(refused),
    words: joined(words),
  };
}

/** The same said of several frames is said once. */
function joined(words: MendPreview['words']): WordView[] {
  const frames = new Map<string, number[]>();
  for (const { pass, frame, message } of words) {
    const key = JSON.stringify([pass, message]);
    frames.set(key, [...(frames.get(key) ?? []), frame]);
  }
  return [...frames].slice(0, SHOWN).map(([key, numbers]) => {
    const [pass, message] = JSON.parse(key) as [string, string];
    return { pass, message, frames: formatFrameRange(FrameSet.of(numbers)) };
  });
}

function keptView({ mend, files, bytes }: Awaited<ReturnType<typeof keptIn>>[number], days: number): KeptView {
  return {
    ...{ mend: mend.head.id, says: mend.head.says, at: mend.head.at, bytes },
    files: files.slice(0, SHOWN),
    fileCount: files.length,
    goesAt: new Date(goesAt(mend, days)).toISOString(),
    isKeptOn: (mend satisfies MendRecord).keepUntil !== null,
  };
}
