import { randomBytes } from 'node:crypto';
import path from 'node:path';
import { MintError, parseFrameRange, planMovie, workOutOrder } from '@mint-tally/core';
import { isInside } from '@mint-tally/disk';
import { findShot, newestBrief, noteMovie, type Job } from '@mint-tally/store';
import { findRoot, openForWriting, resolveInside } from '../files/roots.ts';
import { clearUnfinishedIn } from '../housekeeping/house.ts';
import type { Commit, JobControl } from '../jobs/job-control.ts';
import type { JobTools } from '../jobs/job-tools.ts';
import { makeMovie } from './make-movie.ts';
import { filesOfPass, passNamed } from '../drawing/shown-sequence.ts';

type MovieRequest = Extract<Job['request'], { kind: 'movie' }>;

/** Makes a shot's review movie. Gives what ends the job, or null when it was stopped. @throws MintError */
export async function movieShot(tools: JobTools, control: JobControl): Promise<Commit | null> {
  const { database, config } = tools;
  const request = control.job.request as MovieRequest;
  const { shotId, actor } = control.job;
  const shot = await findShot(database, shotId);
  const saved = shot && (await newestBrief(database, shotId));
  if (!shot || !saved) throw new MintError('no-brief', 'The shot or its brief is not there any more.');
  const folder = resolveInside(findRoot(config.roots, shot.root), shot.folder);
  const order = workOutOrder(saved.brief);
  const shown = { folder, order, passIndex: passNamed(order, request.pass) };
  const other = request.other && {
    ...{ folder: resolveInside(findRoot(config.roots, request.other.root), request.other.folder), order },
    passIndex: passNamed(order, request.other.pass),
  };
  const plan = planMovie(
    order,
    shown.passIndex,
    request.range.trim() === '' ? null : parseFrameRange(request.range),
    await filesOfPass(folder, order, shown.passIndex),
    other ? await filesOfPass(other.folder, order, other.passIndex) : undefined,
  );
  const { sound } = saved.brief;
  const { parent, name } = openForWriting(findRoot(config.roots, request.root), request.file);
  try {
    if (isInside(folder, path.join(parent.path, name)))
      throw new MintError('inside-shot', 'The movie would lie among the frames, and be counted with them.', { remedy: 'Choose another folder for it.' });
    await clearUnfinishedIn(database, parent, control.job.id);
    const movie = await makeMovie({
      ...{ shown, other, plan, settings: request.settings, parent, name },
      sound: request.withSound && sound ? resolveInside(findRoot(config.roots, shot.root), path.posix.join(shot.folder, sound.file)) : null,
      aside: `${control.job.id}-${randomBytes(4).toString('hex')}`,
      threads: config.workers,
      stopped: () => control.stopReason !== null,
      onProgress: ({ done, total, bytes }) =>
        control.report({ phase: 'encoding', done, total, bytesDone: bytes === null ? 0 : Math.round((bytes * done) / total), bytesTotal: bytes ?? 0 }),
      onWhole: async () => control.stillHeld(),
    });
    if (!movie) return null;
    return async (inside) => {
      await noteMovie(inside, shotId, { root: request.root, file: request.file, pass: request.pass, made: movie, wish: request }, actor);
      return { file: request.file };
    };
  } finally {
    parent.close();
  }
}
