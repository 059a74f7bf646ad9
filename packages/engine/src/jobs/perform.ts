import { MintError, type JobKind } from '@mint-tally/core';
import { MOST_FALLS } from '@mint-tally/store';
import { assayShot } from '../assaying/assay-shot.ts';
import { denoiseShot } from '../denoising/denoise-shot.ts';
import { measureShot } from '../measuring/measure-shot.ts';
import { mendShot } from '../mending/mend-shot.ts';
import { sheetShot } from '../contact-sheets/sheet-shot.ts';
import { movieShot } from '../movies/movie-shot.ts';
import { mergeShot } from '../merging/merge-shot.ts';
import { giveUpBatch, runBatch } from '../batch/run-batch.ts';
import { verifyShot } from '../packaging/verify-shot.ts';
import { countLeaving } from './count-leaving.ts';
import type { Commit, JobControl } from './job-control.ts';
import type { JobTools } from './job-tools.ts';
import { packageShot } from './package-shot.ts';

/** Does a job. Gives what to write down at its end, or null when it was stopped. */
type Work = (tools: JobTools, control: JobControl) => Promise<Commit | null>;

const WORK: Record<JobKind, Work> = {
  async count(tools, control) {
    const count = await countLeaving(tools, control);
    return count && (async (inside) => ({ tallyId: await count.save(inside), pictureLost: count.pictureLost }));
  },
  async measure(tools, control) {
    const measured = await measureShot(tools, control);
    return measured && (async () => measured);
  },
  assay: assayShot,
  denoise: denoiseShot,
  render: runBatch,
  merge: mergeShot,
  mend: mendShot,
  package: packageShot,
  movie: movieShot,
  sheet: sheetShot,
  verify: verifyShot,
};

/**
 * Does what a job asks for.
 *
 * @throws MintError; also when engines fell with the job so often that it is not tried again
 */
export const perform: Work = async (tools, control) => {
  const { falls, request } = control.job;
  if (falls < MOST_FALLS) return WORK[request.kind](tools, control);
  if (request.kind === 'render') await giveUpBatch(tools, request.batch);
  throw new MintError('engine-lost', `The engine fell ${falls} times while it worked on this, and on nothing else.`, {
    remedy: 'Look at the engine’s messages, then try again.',
  });
};
