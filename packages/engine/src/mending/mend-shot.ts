import { MintError, type JobRequest } from '@mint-tally/core';
import { findShot, newestBatch, newestBrief, noteMend, noteMendUndone, requestJob } from '@mint-tally/store';
import { findRoot, resolveWritable } from '../files/roots.ts';
import type { Commit, JobControl } from '../jobs/job-control.ts';
import type { JobTools } from '../jobs/job-tools.ts';
import type { MendCare } from './carry-out.ts';
import { applyMend, undoMend } from './mend-folder.ts';

type MendRequest = Extract<JobRequest, { kind: 'mend' }>;

/**
 * Carries out a mend of a shot's folder as it was previewed, or takes the newest one back; then the shot is counted anew. Null
 * when it was stopped: what was done is in its journal, and is gone on with or taken back.
 *
 * @throws MintError
 */
export async function mendShot({ database, config }: JobTools, control: JobControl): Promise<Commit | null> {
  const { action, wish, seen } = control.job.request as MendRequest;
  const { shotId, actor } = control.job;
  const [shot, saved] = await Promise.all([findShot(database, shotId), newestBrief(database, shotId)]);
  if (!shot || !saved) throw new MintError('no-brief', 'The shot or its brief is not there any more.');
  const batch = await newestBatch(database, shotId);
  if (batch && batch.outcome === null)
    throw new MintError('batch-writes', 'A batch writes into this folder.', { remedy: 'Let it end or stop it: its frames must not be moved under its hands.' });
  const folder = resolveWritable(findRoot(config.roots, shot.root), shot.folder);
  const care: MendCare = {
    onMove: (done, total) => control.report({ phase: action === 'apply' ? 'mending' : 'taking back', done, total, bytesDone: done, bytesTotal: total }),
    // What another engine may be at is not gone on with.
    isStopped: () => control.stopReason !== null,
  };
  if (action === 'undo') {
    const undone = await undoMend(folder, care);
    if (control.stopReason !== null) return null;
    return async (inside) => {
      if (undone) await noteMendUndone(inside, shotId, undone.head.id, actor);
      await requestJob(inside, shotId, { kind: 'count' }, actor);
      return { files: undone?.head.steps.length ?? 0 };
    };
  }
  if (!wish) throw new MintError('no-wish', 'It was not said what is to be mended.');
  const applied = await applyMend({ folder, brief: saved.brief, wish, kept: new Set(), now: Date.now(), actor, seen }, care);
  if (!applied) return null;
  return async (inside) => {
    if (applied.steps.length > 0) await noteMend(inside, shotId, { journal: applied.id, says: applied.says, steps: applied.steps }, actor);
    await requestJob(inside, shotId, { kind: 'count' }, actor);
    return { files: applied.steps.length };
  };
}
