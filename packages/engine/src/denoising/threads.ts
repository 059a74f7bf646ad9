import path from 'node:path';
import { servicesFolder } from '../config/project.ts';
import { answerOf } from '../threads/told-error.ts';
import { denoiseStretch, type DenoisedFrame, type DenoiseTask } from './denoise-stretch.ts';
import type { DenoiseAnswer } from './denoise-worker.ts';

/** Frames beside a stretch are filtered by both its threads: long ones do so seldom. */
const LONGEST_STRETCH = 24;

/**
 * Denoises frames in stretches, on so many threads.
 *
 * @param places of the wanted frames among those of the task, in order
 * @param onDone told how many are done
 * @returns null when it was stopped
 */
export async function denoiseOnThreads(
  task: Omit<DenoiseTask, 'from' | 'to'>,
  places: readonly number[],
  threads: number,
  onDone: (count: number) => void,
  stopped: () => boolean,
): Promise<DenoisedFrame[] | null> {
  const stretches = stretchesOf(places, Math.min(LONGEST_STRETCH, Math.ceil(places.length / threads)));
  const results: DenoisedFrame[] = [];
  const keep = (frames: DenoisedFrame[]) => {
    results.push(...frames);
    onDone(results.length);
  };
  if (stretches.length === 1) keep(await denoiseStretch({ ...task, ...stretches[0]! }));
  else {
    const { Piscina } = await import('piscina');
    const pool = new Piscina<DenoiseTask, DenoiseAnswer>({ filename: path.join(servicesFolder(), 'denoise-worker.js'), maxThreads: threads });
    let next = 0;
    const lane = async () => {
      while (next < stretches.length && !stopped()) {
        const { from, to } = stretches[next++]!;
        const first = Math.max(0, from - task.reach);
        const end = to + task.reach;
        const answer = await pool.run({
          ...task,
          frames: task.frames.slice(first, end),
          sigmas: task.sigmas.slice(first, end),
          from: from - first,
          to: to - first,
        });
        keep(answerOf(answer).frames);
      }
    };
    try {
      await Promise.all(Array.from({ length: threads }, lane));
    } finally {
      await pool.destroy();
    }
  }
  return stopped() && results.length < places.length ? null : results.sort((a, b) => a.frame - b.frame);
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
