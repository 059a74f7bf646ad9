import { createHash } from 'node:crypto';
import path from 'node:path';
import { MintError, type AssayedFrame, type KeptAssay } from '@mint-tally/core';
import { findShot, loadFileFacts, newestBrief, saveAssay } from '@mint-tally/store';
import { findRoot, resolveInside } from '../files/roots.ts';
import { countShot } from '../jobs/count-shot.ts';
import type { Commit, JobControl } from '../jobs/job-control.ts';
import { KeptFacts } from '../jobs/kept-facts.ts';
import type { JobTools } from '../jobs/job-tools.ts';
import { assayFolder, ofAllFrames, type Assay } from './assay-folder.ts';

/**
 * Measures a shot, and counts it: files that are new are decoded once for both. Null when it was stopped.
 *
 * @throws MintError where there is no shot, or nothing to measure
 */
export async function assayShot(tools: JobTools, control: JobControl): Promise<Commit | null> {
  const { database, config } = tools;
  const { shotId, actor } = control.job;
  const [shot, saved] = await Promise.all([findShot(database, shotId), newestBrief(database, shotId)]);
  if (!shot || !saved) throw new MintError('no-brief', 'The shot or its brief is not there any more.');
  const folder = resolveInside(findRoot(config.roots, shot.root), shot.folder);
  const facts = new KeptFacts(database, shotId);
  let pictureLost: string | null = null;
  const assay = await assayFolder({
    folder,
    brief: saved.brief,
    now: Date.now(),
    threads: config.workers,
    // While this thread measures it holds no lease.
    apart: true,
    stopped: () => control.stopReason !== null,
    onProgress: (done, total) => control.report({ phase: 'measuring frames', done, total, bytesDone: 0, bytesTotal: 0 }),
    looks: {
      known: await loadFileFacts(database, shotId),
      proxyFolder: path.join(config.dataFolder, 'proxies'),
      onPictureLost: (why) => (pictureLost ??= why),
      onInspected: (file) => facts.add(file),
    },
  });
  // What a stopped assay has looked into need not be looked into again.
  await facts.flush();
  const count = assay && (await countShot(tools, control));
  if (!assay || !count) return null;
  return async (inside) => {
    const tallyId = await count.save(inside);
    const content = assay.hasChanged?.() ? CHANGED : count.content;
    await saveAssay(inside, shotId, { briefId: saved.id, content }, kept(assay), assay.frames.map(tilesOf), assay.findings, actor);
    return { frames: assay.frames.length, tallyId, pictureLost: pictureLost ?? count.pictureLost };
  };
}

/** Stands for frames that changed while they were measured: no count is of these. */
const CHANGED = createHash('sha256').update('changed while it was measured').digest('hex');

function kept({ frames, convention }: Assay): KeptAssay {
  return {
    frames: frames.map(({ pass, frame, noise, relativeNoise, temporalNoise, fireflies, meanLuminance, by, host, samples, seconds, bytes }) => ({
      ...{ pass, frame, noise, relativeNoise, temporalNoise },
      ...{ fireflies, meanLuminance, by, host, samples, seconds, bytes },
    })),
    ...ofAllFrames({ frames, convention }),
  };
}

const tilesOf = ({ pass, frame, grid, tiles, means, fireflyPlaces }: AssayedFrame) => ({
  ...{ pass, frame, width: grid.width, height: grid.height },
  ...{ sigmas: tiles, means, fireflies: fireflyPlaces },
});
