import path from 'node:path';
import { MessageChannel } from 'node:worker_threads';
import { STRETCH } from '@mint-tally/core';
import { servicesFolder } from '../config/project.ts';
import { answerOf } from '../threads/told-error.ts';
import { denoiseStretch, type DenoisedFrame, type DenoisedStretch, type DenoiseTask, type StretchCare } from './denoise-stretch.ts';
import type { DenoiseAnswer, DenoiseOrder } from './denoise-worker.ts';

/** How often a thread is told that it should stop, in milliseconds. */
const LOOK_EVERY = 100;

/** How frames are denoised on threads. */
export interface OnThreads extends StretchCare {
  readonly threads: number;
  /** Whoever asks has other things to do: even a single stretch gets a thread of its own. */
  readonly apart: boolean;
}

/** What was done of all stretches. */
export interface DenoisedStretches extends DenoisedStretch {
  /** Whether it was stopped before all were done. */
  readonly isStopped: boolean;
}

/**
 * Denoises frames in stretches, on so many threads.
 *
 * @param places of the wanted frames among those of the task, in order
 */
export async function denoiseOnThreads(
  task: Omit<DenoiseTask, 'from' | 'to'>,
  places: readonly number[],
  { threads, apart, onFrame, isStopped }: OnThreads,
): Promise<DenoisedStretches> {
  const stretches = stretchesOf(places, Math.min(STRETCH, Math.ceil(places.length / threads)));
  const results: DenoisedStretch[] = [];
  if (stretches.length === 1 && !apart) results.push(await denoiseStretch({ ...task, ...stretches[0]! }, { onFrame, isStopped }));
  else {
    const { Piscina } = await import('piscina');
    const pool = new Piscina<DenoiseOrder, DenoiseAnswer>({ filename: path.join(servicesFolder(), 'denoise-worker.js'), maxThreads: threads });
    const flag = new Int32Array(new SharedArrayBuffer(4));
    const looking = setInterval(() => isStopped() && Atomics.store(flag, 0, 1), LOOK_EVERY);
    let next = 0;
    const lane = async () => {
      while (next < stretches.length && Atomics.load(flag, 0) === 0) {
        const { port1, port2 } = new MessageChannel();
        port1.on('message', onFrame);
        try {
          const answer = await pool.run({ task: partOfTask(task, stretches[next++]!), stop: flag, told: port2 }, { transferList: [port2] });
          results.push(answerOf(answer).stretch);
        } catch (thrown) {
          // The others end with the frame that they are at, so that nothing half written is left.
          Atomics.store(flag, 0, 1);
          throw thrown;
        } finally {
          port1.close();
        }
      }
    };
    const lanes = await Promise.allSettled(Array.from({ length: threads }, lane));
    clearInterval(looking);
    await pool.destroy();
    for (const ended of lanes) if (ended.status === 'rejected') throw ended.reason;
  }
  const frames: DenoisedFrame[] = results.flatMap((result) => result.frames).sort((a, b) => a.frame - b.frame);
  const filtered = results.reduce((sum, result) => sum + result.filtered, 0);
  const seconds = results.reduce((sum, result) => sum + result.filtered * result.secondsEach, 0);
  return { frames, filtered, secondsEach: seconds / Math.max(1, filtered), isStopped: frames.length < places.length };
}

/** Only the frames that a stretch needs go along. */
function partOfTask(task: Omit<DenoiseTask, 'from' | 'to'>, { from, to }: Pick<DenoiseTask, 'from' | 'to'>): DenoiseTask {
  const first = Math.max(0, from - task.reach);
  const end = to + task.reach;
  const own = <One>(list: readonly One[]) => list.slice(first, end);
  const { frames, sigmas, names, references } = task;
  return { ...task, frames: own(frames), sigmas: own(sigmas), names: own(names), references: own(references), from: from - first, to: to - first };
}

/** Places that stand beside each other, at most so many together. */
function stretchesOf(places: readonly number[], longest: number): { readonly from: number; readonly to: number }[] {
  const stretches: { from: number; to: number }[] = [];
  for (const place of places) {
    const last = stretches.at(-1);
    if (last?.to === place && place - last.from < longest) last.to = place + 1;
    else stretches.push({ from: place, to: place + 1 });
  }
  return stretches;
}
