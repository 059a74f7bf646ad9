import path from 'node:path';
import { MintError, workOutOrder } from '@mint-tally/core';
import { isInside } from '@mint-tally/disk';
import { findShot, newestBrief, noteSheet, type Job } from '@mint-tally/store';
import { findRoot, openForWriting, resolveInside } from '../files/roots.ts';
import { clearUnfinishedIn } from '../housekeeping/house.ts';
import type { Commit, JobControl } from '../jobs/job-control.ts';
import type { JobTools } from '../jobs/job-tools.ts';
import { makeSheet } from './make-sheet.ts';

type SheetRequest = Extract<Job['request'], { kind: 'sheet' }>;

/** Makes a shot's contact sheet. Gives what ends the job, or null when it was stopped. @throws MintError */
export async function sheetShot({ database, config }: JobTools, control: JobControl): Promise<Commit | null> {
  const { root, file, settings } = control.job.request as SheetRequest;
  const { shotId, actor, id: job } = control.job;
  const shot = await findShot(database, shotId);
  const saved = shot && (await newestBrief(database, shotId));
  if (!shot || !saved) throw new MintError('no-brief', 'The shot or its brief is not there any more.');
  const folder = resolveInside(findRoot(config.roots, shot.root), shot.folder);
  const { parent, name } = openForWriting(findRoot(config.roots, root), file);
  try {
    if (isInside(folder, path.join(parent.path, name)))
      throw new MintError('inside-shot', 'The sheet would lie among the frames, and be counted with them.', { remedy: 'Choose another folder for it.' });
    await clearUnfinishedIn(database, parent, job);
    const made = await makeSheet({
      ...{ folder, order: workOutOrder(saved.brief), settings, parent, name, job },
      ...{ threads: config.workers, stopped: () => control.stopReason !== null },
      onProgress: ({ done, total }) => control.report({ phase: 'drawing', done, total, bytesDone: 0, bytesTotal: 0 }),
      onWhole: async () => control.stillHeld(),
    });
    return (
      made &&
      (async (inside) => {
        await noteSheet(inside, shotId, { root, file, wish: settings, made }, actor);
        return { file };
      })
    );
  } finally {
    parent.close();
  }
}
