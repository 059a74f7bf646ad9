import { MintError, sayMend, type JobRequest } from '@mint-tally/core';
import { findShot, forgetMendPreview, newestBatch, newestBrief, noteMend, noteMendUndone, readMendPreview, requestJob } from '@mint-tally/store';
import { findRoot, resolveInside, resolveWritable } from '../files/roots.ts';
import type { Commit, JobControl } from '../jobs/job-control.ts';
import type { JobTools } from '../jobs/job-tools.ts';
import { listFolder } from '../files/list-folder.ts';
import type { MendCare } from './carry-out.ts';
import { keepAside, letGo } from './kept.ts';
import { applyMend, applyPlan, MendChangedError, undoMend, type AppliedMend } from './mend-folder.ts';
import { makersFor } from './makers.ts';
import { namePlan } from './plan-mend.ts';
import { previewMend } from './preview-mend.ts';
import { soundFrames } from './sound-frames.ts';

/** Looks after a mend for a job. */
export const careOf = (control: JobControl, phase: string): MendCare => ({
  onMove: (done, total) => control.report({ phase, done, total, bytesDone: done, bytesTotal: total }),
  // What another engine may be at is not gone on with.
  isStopped: () => control.stopReason !== null,
});

type MendRequest = Extract<JobRequest, { kind: 'mend' }>;

/**
 * Previews a mend of a shot's folder, carries one out as it was previewed, takes the newest one back, or lets go of what one has
 * set aside. After what changes frames the shot is counted anew. Null when it was stopped: what was done is in its journal, and
 * is gone on with or taken back.
 *
 * @throws MintError
 */
export async function mendShot(tools: JobTools, control: JobControl): Promise<Commit | null> {
  const { database, config } = tools;
  const { action, seen } = control.job.request as MendRequest;
  const { shotId, actor } = control.job;
  const [shot, saved] = await Promise.all([findShot(database, shotId), newestBrief(database, shotId)]);
  if (!shot || !saved) throw new MintError('no-brief', 'The shot or its brief is not there any more.');
  const root = findRoot(config.roots, shot.root);
  if (action === 'preview') return previewMend(tools, control, resolveInside(root, shot.folder), saved);
  const folder = resolveWritable(root, shot.folder);
  if (action === 'let-go') {
    const went = await letGo(folder, seen, new Date());
    return async () => went;
  }
  if (action === 'keep') {
    await keepAside(folder, seen, keptUntil(control.job.request as MendRequest));
    return async () => ({});
  }
  await noBatchWrites(tools, shotId);
  if (action === 'undo') {
    await undoMend(folder, careOf(control, 'taking back'), seen);
    if (control.stopReason !== null) return null;
    return async (inside) => {
      await noteMendUndone(inside, shotId, seen, actor);
      await requestJob(inside, shotId, { kind: 'count' }, actor);
      return {};
    };
  }
  const applied = await apply(tools, control, folder, saved.brief);
  if (!applied) return null;
  return async (inside) => {
    await forgetMendPreview(inside, shotId, seen);
    if (applied.steps.length > 0) await noteMend(inside, shotId, { journal: applied.id, says: applied.says, steps: applied.steps }, actor);
    await requestJob(inside, shotId, { kind: 'count' }, actor);
    return { files: applied.steps.length };
  };
}

async function apply(tools: JobTools, control: JobControl, folder: string, brief: Parameters<typeof applyMend>[0]['brief']): Promise<AppliedMend | null> {
  const { database } = tools;
  const { wish, seen } = control.job.request as MendRequest;
  const { shotId, actor } = control.job;
  if (!wish) throw new MintError('no-wish', 'It was not said what is to be mended.');
  const now = Date.now();
  const makers = makersFor(tools.config.workers);
  try {
    const care = { ...careOf(control, 'mending'), ...makers.care };
    if (wish.kind !== 'patch' && wish.kind !== 'convert') {
      const isSound = wish.kind === 'hold' ? await soundFrames(database, shotId) : undefined;
      return await applyMend({ folder, brief, wish, kept: new Set(), now, actor, seen, isSound }, care);
    }
    const makePlan = async () => {
      // What was looked at is what is done; every file is held against it when its turn comes.
      const preview = await readMendPreview(database, shotId);
      if (preview?.seen !== seen) throw new MendChangedError(folder);
      return namePlan(folder, (await listFolder(folder, { stats: true })).files, { steps: preview.steps, conflicts: [] }, now);
    };
    return await applyPlan({ folder, says: sayMend(wish), now, actor, seen, makePlan }, care);
  } finally {
    await makers.close();
  }
}

function keptUntil({ until }: MendRequest): Date | null {
  return until === null ? null : new Date(until);
}

async function noBatchWrites({ database }: JobTools, shotId: number): Promise<void> {
  const batch = await newestBatch(database, shotId);
  if (batch && batch.outcome === null)
    throw new MintError('batch-writes', 'A batch writes into this folder.', { remedy: 'Let it end or stop it: its frames must not be moved under its hands.' });
}
