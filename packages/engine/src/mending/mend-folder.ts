import { existsSync } from 'node:fs';
import { rm, rmdir } from 'node:fs/promises';
import os from 'node:os';
import path from 'node:path';
import { MintError, orderMoves, sayMend, SET_ASIDE, type MendPlan, type MendStep } from '@mint-tally/core';
import { carryOut, takeBack, type MendCare } from './carry-out.ts';
import { MendJournal, readMends, type MendRecord } from './journal.ts';
import { holdingMends } from './lock.ts';
import { planMend, type NamedPlan, type PlanOptions } from './plan-mend.ts';

export interface MendOptions extends PlanOptions {
  /** Who wants it; the name of whoever runs this where it is not said. */
  readonly actor?: string;
  /** Stands for what was previewed: another plan is not carried out. */
  readonly seen?: string;
}

/** A mend whose plan somebody else makes. */
export interface PlannedMend extends Pick<MendOptions, 'folder' | 'now' | 'actor' | 'seen'> {
  /** What was asked for, in words. */
  readonly says: string;
  /** Made when nobody else mends the folder, and nothing is left in the middle. */
  readonly makePlan: () => Promise<NamedPlan>;
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

/** Raised when what a mend had set aside is not kept any more. */
export class MendLetGoError extends MintError {
  constructor(folder: string, { head, letGoAt }: MendRecord) {
    super('let-go', `What “${head.says}” had set aside was let go on ${letGoAt!.slice(0, 10)}: it cannot be taken back any more.`, {
      subject: folder,
      remedy: 'Earlier mends of this folder cannot be either. The keep time is set in mint-tally.config.json.',
    });
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
  return applyPlan({ ...options, says: sayMend(options.wish), makePlan: () => planMend(options) }, care);
}

/** The same for a plan that was made elsewhere. @throws MendConflictError, MendChangedError, MendHeldError, MendUnfinishedError, TransferError */
export function applyPlan(mend: PlannedMend, care: MendCare = NOBODY): Promise<AppliedMend | null> {
  const { folder, seen, says } = mend;
  return inMends(folder, async () => {
    const mends = await readMends(folder);
    const unfinished = mends.find((other) => !other.isEnded || other.isUndoing);
    if (unfinished?.isUndoing) throw new MendUnfinishedError(folder, unfinished);
    if (unfinished && !(await write(MendJournal.reopen(folder, unfinished.head.id), (journal) => carryOut(folder, unfinished, journal, care)))) return null;
    // It was just this one, and whoever carried it out fell before that was known.
    const last = unfinished ?? mends.at(-1);
    const isDone = seen !== undefined && last?.head.seen === seen;
    if (isDone && unfinished) return appliedOf(last!);
    const plan = await mend.makePlan();
    if (seen !== undefined && plan.seen !== seen) {
      if (!isDone) throw new MendChangedError(folder);
      return appliedOf(last!);
    }
    if (plan.conflicts.length > 0) throw new MendConflictError(plan);
    if (plan.steps.length > 0 && !(await begin(mend, plan, care))) return null;
    return { ...plan, says };
  });
}

const appliedOf = ({ head: { id, says, steps } }: MendRecord): AppliedMend => ({ id, says, steps, conflicts: [] });

async function begin({ folder, says, now, actor = os.userInfo().username }: PlannedMend, { id, seen, steps }: NamedPlan, care: MendCare): Promise<boolean> {
  const head = {
    ...{ id, seen, actor, says },
    at: new Date(now).toISOString(),
    steps: [...steps],
    moves: orderMoves(steps, (step) => `${SET_ASIDE}/${id}/waiting/${step}`),
    made: foldersMade(folder, steps),
  };
  const record: MendRecord = {
    ...{ head: { kind: 'mend', ...head }, begun: new Map(), done: new Set(), undone: new Set(), isEnded: false, isUndoing: false },
    ...{ letGoAt: null, keepUntil: null },
  };
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
 * @param only the mend that is meant, by its journal; whichever is the newest where none is named
 * @returns what was taken back; null when there is nothing, or it was stopped
 * @throws MendHeldError, TransferError
 */
export function undoMend(folder: string, care: MendCare = NOBODY, only: string | null = null): Promise<MendRecord | null> {
  return inMends(folder, async () => {
    const mend = (await readMends(folder)).at(-1);
    // Where it is gone already, the one before is not meant.
    if (!mend || (only !== null && mend.head.id !== only)) return null;
    const { head } = mend;
    if (mend.letGoAt !== null) throw new MendLetGoError(folder, mend);
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
