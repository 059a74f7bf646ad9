import { MintError, sayConvention, type AssayedFrame, type KeptAssay } from '@mint-tally/core';
import { findShot, newestBrief, newestCount, saveAssay } from '@mint-tally/store';
import { findRoot, resolveInside } from '../files/roots.ts';
import type { Commit, JobControl } from '../jobs/job-control.ts';
import type { JobTools } from '../jobs/job-tools.ts';
import { assayFolder, type Assay } from './assay-folder.ts';

/**
 * Measures a shot as it was counted last. Null when it was stopped.
 *
 * @throws MintError where nothing has been counted against the newest brief
 */
export async function assayShot({ database, config }: JobTools, control: JobControl): Promise<Commit | null> {
  const { shotId, actor } = control.job;
  const [shot, saved, counted] = await Promise.all([findShot(database, shotId), newestBrief(database, shotId), newestCount(database, shotId)]);
  if (!shot || !saved) throw new MintError('no-brief', 'The shot or its brief is not there any more.');
  if (counted?.briefId !== saved.id) throw new MintError('not-counted', 'The shot has not been counted against its brief.', { remedy: 'Count it first.' });
  const assay = await assayFolder({
    folder: resolveInside(findRoot(config.roots, shot.root), shot.folder),
    brief: saved.brief,
    now: Date.now(),
    threads: config.workers,
    // While this thread measures it holds no lease.
    apart: true,
    stopped: () => control.stopReason !== null,
    onProgress: (done, total) => control.report({ phase: 'measuring frames', done, total, bytesDone: 0, bytesTotal: 0 }),
  });
  if (!assay) return null;
  return async (inside) => {
    await saveAssay(inside, shotId, { briefId: saved.id, content: counted.content }, kept(assay), assay.frames.map(tilesOf), assay.findings, actor);
    return { frames: assay.frames.length };
  };
}

function kept({ frames, convention }: Assay): KeptAssay {
  return {
    frames: frames.map(({ pass, frame, noise, relativeNoise, temporalNoise, fireflies, meanLuminance, by, host, samples, seconds, bytes }) => ({
      ...{ pass, frame, noise, relativeNoise, temporalNoise },
      ...{ fireflies, meanLuminance, by, host, samples, seconds, bytes },
    })),
    heldSeeds: frames.some(({ heldSeeds }) => heldSeeds),
    wideFilter: frames.some(({ wideFilter }) => wideFilter),
    vectors: convention && { says: sayConvention(convention.convention), residual: convention.residual, isSaid: convention.isSaid },
  };
}

const tilesOf = ({ pass, frame, grid, tiles, means }: AssayedFrame) => ({ pass, frame, width: grid.width, height: grid.height, sigmas: tiles, means });
