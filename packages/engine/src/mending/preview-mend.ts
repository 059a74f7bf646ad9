import { MintError, type JobRequest, type MendWish } from '@mint-tally/core';
import { loadFileFacts, saveMendPreview, type MendPreview, type SavedBrief } from '@mint-tally/store';
import { findRoot, resolveInside } from '../files/roots.ts';
import type { Commit, JobControl } from '../jobs/job-control.ts';
import type { JobTools } from '../jobs/job-tools.ts';
import { namePlan } from './plan-mend.ts';
import { workOutConversion } from './plan-conversion.ts';
import { workOutPatch } from './plan-patch.ts';

type MendRequest = Extract<JobRequest, { kind: 'mend' }>;

/**
 * Works out a mend for which files have to be looked into, and keeps it to be looked at. Null when it was stopped.
 *
 * @param folder real path of the shot's folder
 * @throws MintError
 */
export async function previewMend(tools: JobTools, control: JobControl, folder: string, { brief }: SavedBrief): Promise<Commit | null> {
  const { wish } = control.job.request as MendRequest;
  if (!wish) throw new MintError('no-wish', 'It was not said what is to be mended.');
  const now = Date.now();
  const onProgress = (done: number, total: number) => control.report({ phase: 'looking', done, total, bytesDone: done, bytesTotal: total });
  const worked = await workOut(tools, control, wish, { folder, brief, now, onProgress, isStopped: () => control.stopReason !== null });
  if (!worked) return null;
  const { files, refused, words, notes, ...plan } = worked;
  const { seen, steps, conflicts } = await namePlan(folder, files, plan, now);
  return async (inside) => {
    await saveMendPreview(inside, control.job.shotId, { wish, seen, steps, conflicts, refused, words, notes });
    return { files: steps.length };
  };
}

interface Setting {
  readonly folder: string;
  readonly brief: SavedBrief['brief'];
  readonly now: number;
  readonly onProgress: (done: number, total: number) => void;
  readonly isStopped: () => boolean;
}

type WorkedOut = Omit<MendPreview, 'wish' | 'seen' | 'madeAt'> & { readonly files: Parameters<typeof namePlan>[1] };

async function workOut({ database, config, pool }: JobTools, control: JobControl, wish: MendWish, setting: Setting): Promise<WorkedOut | null> {
  switch (wish.kind) {
    case 'patch': {
      const from = resolveInside(findRoot(config.roots, wish.root), wish.folder);
      const known = await loadFileFacts(database, control.job.shotId);
      const { frames, passes } = wish;
      const patch = await workOutPatch({ ...setting, from, frames, passes, pool, known });
      return patch && { ...patch, notes: [] };
    }
    case 'convert':
      return workOutConversion({ ...setting, wish });
    default:
      throw new MintError('not-previewed', `A ${wish.kind} is previewed by the page itself.`);
  }
}
