import { createHash } from 'node:crypto';
import { existsSync } from 'node:fs';
import { rm, rmdir } from 'node:fs/promises';
import os from 'node:os';
import path from 'node:path';
import {
  asidePath,
  assignFiles,
  findMendConflicts,
  MintError,
  orderMoves,
  planRename,
  planRenumber,
  planTrim,
  presentIn,
  sayMend,
  SET_ASIDE,
  workOutOrder,
  type Assignment,
  type Brief,
  type MendPlan,
  type MendStep,
  type MendWish,
  type Order,
} from '@mint-tally/core';
import { listFolder } from '../files/list-folder.ts';
import { carryOut, takeBack, type MendCare } from './carry-out.ts';
import { MendJournal, nextMendId, readMends, type MendRecord } from './journal.ts';
import { holdingMends } from './lock.ts';

export interface MendOptions {
  /** Real path. */
  readonly folder: string;
  readonly brief: Brief;
  readonly wish: MendWish;
  /** Paths below the folder that are never taken out. */
  readonly kept: ReadonlySet<string>;
  /** Milliseconds since 1970. */
  readonly now: number;
  /** Who wants it; the name of whoever runs this where it is not said. */
  readonly actor?: string;
  /** Stands for what was previewed: another plan is not carried out. */
  readonly seen?: string;
}

/** A plan with the name that its mend would have, and what stands for it, whatever that is called. */
export interface NamedPlan extends MendPlan {
  readonly id: string;
  readonly seen: string;
}

/** Raised when files have changed since the preview, so that something else would be done. */
export class MendChangedError extends MintError {
  constructor(folder: string) {
    super('mend-changed', 'The files have changed since the preview: something else would be done now.', {
      subject: folder,
      remedy: 'Look at the preview again, then apply it.',
    });
  }
}

/** Raised when a plan cannot be carried out before somebody has decided. */
export class MendConflictError extends MintError {
  constructor(plan: MendPlan) {
    const { conflicts } = plan;
    super('mend-conflicts', `Nothing was changed: ${conflicts[0]!.message}${conflicts.length > 1 ? ` ${conflicts.length - 1} more stand against it.` : ''}`, {
      remedy: 'Decide which file is the right one, set the other aside, then try again.',
    });
  }
}

/** Raised when an earlier mend was broken off. */
export class MendUnfinishedError extends MintError {
  constructor(folder: string, { head, isUndoing }: MendRecord) {
    super('mend-unfinished', `A mend of ${head.at.slice(0, 10)} (${head.says}) was broken off in the middle${isUndoing ? ' of being taken back' : ''}.`, {
      subject: folder,
      remedy: isUndoing ? 'Take it back first: --undo.' : 'Go on with it (--apply), or take it back (--undo).',
    });
  }
}

/** Works out what would be done, and what stands against it. @throws FileAccessError */
export async function planMend({ folder, brief, wish, kept, now }: MendOptions): Promise<NamedPlan> {
  const { files } = await listFolder(folder, { stats: true });
  const id = await nextMendId(folder, now);
  const order = workOutOrder(brief);
  // What was given up for another file stands for nothing any more; what has been set aside already asks for nothing.
  const there = new Set(files.map((file) => file.path));
  const givenUp = new Set('aside' in wish ? wish.aside.filter((name) => there.has(name)) : []);
  const assignment = assignFiles(
    order,
    files.filter((file) => !givenUp.has(file.path)),
    now,
  );
  const plan = planFor(wish, order, assignment, kept);
  // Where a plan sets something aside is for its mend to say: it is kept with its journal.
  const asides = [...givenUp].map((from): MendStep => ({ action: 'set-aside', from, to: from, reason: 'another file was chosen for its frame' }));
  const placed = [...asides, ...plan.steps].map((step) => (step.action === 'set-aside' ? { ...step, to: asidePath(id, step.from) } : step));
  const steps = placed.sort((a, b) => (a.from < b.from ? -1 : a.from > b.from ? 1 : 0));
  const seen = createHash('sha256')
    .update(JSON.stringify(placed.map(({ action, from, to }) => [action, from, action === 'set-aside' ? '' : to])))
    .digest('hex');
  return { id, seen, steps, conflicts: [...plan.conflicts, ...findMendConflicts(steps, presentIn(there))] };
}

function planFor(wish: MendWish, order: Order, assignment: Assignment, kept: ReadonlySet<string>): MendPlan {
  switch (wish.kind) {
    case 'plan':
      return { steps: wish.steps, conflicts: [] };
    case 'rename':
      return planRename(order, assignment);
    case 'trim':
      return planTrim(order, assignment, kept);
    case 'renumber':
      return planRenumber(order, assignment, wish.by);
  }
}

/** What was carried out, under which name, in words. */
export type AppliedMend = Pick<NamedPlan, 'id' | 'steps' | 'conflicts'> & { readonly says: string };

const NOBODY: MendCare = { onMove: () => undefined, isStopped: () => false };

/**
 * Carries out a plan. What an earlier try left in the middle is gone on with first, and the plan made anew after it.
 *
 * @returns the plan that was carried out, without steps where nothing was left to do; null when it was stopped
 * @throws MendConflictError, MendChangedError, MendHeldError, MendUnfinishedError, TransferError
 */
export function applyMend(options: MendOptions, care: MendCare = NOBODY): Promise<AppliedMend | null> {
  const { folder, seen } = options;
  return inMends(folder, async () => {
    const mends = await readMends(folder);
    const unfinished = mends.find((mend) => !mend.isEnded || mend.isUndoing);
    if (unfinished?.isUndoing) throw new MendUnfinishedError(folder, unfinished);
    if (unfinished && !(await write(MendJournal.reopen(folder, unfinished.head.id), (journal) => carryOut(folder, unfinished, journal, care)))) return null;
    const plan = await planMend(options);
    if (seen !== undefined && plan.seen !== seen) {
      // It was just this one, and whoever carried it out fell before that was known.
      const last = unfinished ?? mends.at(-1);
      if (last?.head.seen !== seen) throw new MendChangedError(folder);
      return { id: last.head.id, says: last.head.says, steps: last.head.steps, conflicts: [] };
    }
    if (plan.conflicts.length > 0) throw new MendConflictError(plan);
    if (plan.steps.length > 0 && !(await begin(options, plan, care))) return null;
    return { ...plan, says: sayMend(options.wish) };
  });
}

async function begin({ folder, wish, now, actor = os.userInfo().username }: MendOptions, { id, seen, steps }: NamedPlan, care: MendCare): Promise<boolean> {
  const head = {
    ...{ id, seen, actor },
    at: new Date(now).toISOString(),
    says: sayMend(wish),
    steps: [...steps],
    moves: orderMoves(steps, (step) => `${SET_ASIDE}/${id}/waiting/${step}`),
    made: foldersMade(folder, steps),
  };
  const record: MendRecord = { head: { kind: 'mend', ...head }, begun: new Map(), done: new Set(), undone: new Set(), isEnded: false, isUndoing: false };
  return write(await MendJournal.begin(folder, head), (journal) => carryOut(folder, record, journal, care));
}

/** Folders that are not there before it, the deepest first. */
function foldersMade(folder: string, steps: readonly MendStep[]): string[] {
  const made = new Set<string>();
  for (const { to } of steps) {
    for (let above = path.posix.dirname(to); above !== '.' && !made.has(above) && !existsSync(path.join(folder, above)); above = path.posix.dirname(above))
      if (above !== SET_ASIDE && !above.startsWith(`${SET_ASIDE}/`)) made.add(above);
  }
  return [...made].sort((a, b) => b.length - a.length);
}

/**
 * Takes the newest mend back, to the bytes; or goes on with taking it back.
 *
 * @returns what was taken back; null when there is nothing, or it was stopped
 * @throws MendHeldError, TransferError
 */
export function undoMend(folder: string, care: MendCare = NOBODY): Promise<MendRecord | null> {
  return inMends(folder, async () => {
    const mend = (await readMends(folder)).at(-1);
    if (!mend) return null;
    const { head } = mend;
    if (!(await write(MendJournal.reopen(folder, head.id), (journal) => takeBack(folder, mend, journal, care)))) return null;
    // What it made is empty again, unless somebody has put something there since.
    for (const made of head.made) await rmdir(path.join(folder, made)).catch(() => undefined);
    await rm(path.join(folder, SET_ASIDE, head.id), { recursive: true });
    return mend;
  });
}

/** Does something that one at a time does in a folder, and leaves no empty set-aside behind. */
async function inMends<Result>(folder: string, work: () => Promise<Result>): Promise<Result> {
  try {
    return await holdingMends(folder, work);
  } finally {
    // It stays where something is kept in it.
    await rmdir(path.join(folder, SET_ASIDE)).catch(() => undefined);
  }
}

async function write(journal: MendJournal, work: (journal: MendJournal) => Promise<boolean>): Promise<boolean> {
  try {
    return await work(journal);
  } finally {
    journal.close();
  }
}
