import { createHash } from 'node:crypto';
import { existsSync } from 'node:fs';
import path from 'node:path';
import {
  asidePath,
  assignFiles,
  findMendConflicts,
  mapFrames,
  MintError,
  parseFrameSet,
  parseFrameRate,
  planConform,
  planHold,
  planRename,
  planRenumber,
  planRestore,
  planSwap,
  planTrim,
  presentIn,
  SET_ASIDE,
  workOutOrder,
  type AnyWish,
  type Assignment,
  type Brief,
  type ListedFile,
  type MendPlan,
  type MendStep,
  type Order,
} from '@mint-tally/core';
import { listFolder } from '../files/list-folder.ts';
import { nextMendId, readMends } from './journal.ts';

/** What is planned for, and by what. */
export interface PlanOptions {
  /** Real path. */
  readonly folder: string;
  readonly brief: Brief;
  readonly wish: AnyWish;
  /** Paths below the folder that are never taken out. */
  readonly kept: ReadonlySet<string>;
  /** Milliseconds since 1970. */
  readonly now: number;
  /** Whether a frame of a pass may stand in for another; any that is there where nothing has been counted. */
  readonly isSound?: (pass: string, frame: number) => boolean;
}

/** A plan with the name that its mend would have, and what stands for it, whatever that is called. */
export interface NamedPlan extends MendPlan {
  readonly id: string;
  readonly seen: string;
}

/** Raised for a wish that cannot be planned by looking at names alone. */
export class NotPlannedError extends MintError {
  constructor(kind: string) {
    super('not-planned', `A ${kind} has to be previewed by the engine first.`, { remedy: 'Preview it in the application.' });
  }
}

/** Works out what would be done, and what stands against it. @throws FileAccessError, JournalError, NotPlannedError */
export async function planMend({ folder, brief, wish, kept, now, isSound = () => true }: PlanOptions): Promise<NamedPlan> {
  const { files } = await listFolder(folder, { stats: true });
  const order = workOutOrder(brief);
  // What was given up for another file stands for nothing any more; what has been set aside already asks for nothing.
  const there = new Set(files.map((file) => file.path));
  const givenUp = new Set('aside' in wish ? wish.aside.filter((name) => there.has(name)) : []);
  const assignment = assignFiles(
    order,
    files.filter((file) => !givenUp.has(file.path)),
    now,
  );
  const plan = await planFor({ folder, wish, kept, isSound }, order, assignment);
  const asides = [...givenUp].map((from): MendStep => ({ action: 'set-aside', from, to: from, reason: 'another file was chosen for its frame' }));
  return namePlan(folder, files, { ...plan, steps: [...asides, ...plan.steps] }, now);
}

/** Gives a plan its name and its places in the set-aside, and finds what stands against it. @param files of the folder */
export async function namePlan(folder: string, files: readonly ListedFile[], plan: MendPlan, now: number): Promise<NamedPlan> {
  const id = await nextMendId(folder, now);
  // Where a plan sets something aside is for its mend to say: it is kept with its journal.
  const placed = plan.steps.map((step) => (step.action === 'set-aside' ? { ...step, to: asidePath(id, step.from) } : step));
  const steps = placed.sort((a, b) => (a.from < b.from ? -1 : a.from > b.from ? 1 : 0));
  const seen = createHash('sha256')
    .update(JSON.stringify(placed.map(({ action, from, to, way, recipe }) => [action, from, action === 'set-aside' ? '' : to, way, recipe])))
    .digest('hex');
  const there = new Set(files.map((file) => file.path));
  // What lies in the set-aside is not listed, but can come back.
  for (const { from } of steps) if (from.startsWith(`${SET_ASIDE}/`) && existsSync(path.join(folder, from))) there.add(from);
  return { id, seen, steps, conflicts: [...plan.conflicts, ...findMendConflicts(steps, presentIn(there))] };
}

type Wanted = Required<Pick<PlanOptions, 'folder' | 'wish' | 'kept' | 'isSound'>>;

async function planFor({ folder, wish, kept, isSound }: Wanted, order: Order, assignment: Assignment): Promise<MendPlan> {
  const named = (text: string, passes: readonly string[]) => ({ frames: parseFrameSet(text), passes });
  switch (wish.kind) {
    case 'plan':
      return { steps: wish.steps, conflicts: [] };
    case 'rename':
      return planRename(order, assignment);
    case 'trim':
      return planTrim(order, assignment, kept, named(wish.frames, wish.passes));
    case 'renumber':
      return planRenumber(order, assignment, wish.by);
    case 'swap':
      return planSwap(order, assignment, wish.passes);
    case 'hold':
      return planHold(order, assignment, named(wish.frames, wish.passes), isSound);
    case 'conform':
      return planConform(order, assignment, mapFrames(order.frames, parseFrameRate(order.brief.fps ?? '24'), parseFrameRate(wish.fps)));
    case 'restore': {
      const mend = (await readMends(folder)).find(({ head }) => head.id === wish.mend);
      if (!mend) throw new MintError('no-mend', `There is no mend ${wish.mend} in this folder.`, { subject: folder, remedy: 'Reload the page.' });
      return planRestore(wish.mend, mend.head.steps, wish.paths, (kept) => existsSync(path.join(folder, kept)));
    }
    case 'patch':
    case 'convert':
      throw new NotPlannedError(wish.kind);
  }
}
