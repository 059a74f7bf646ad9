import path from 'node:path';
import { servicesFolder } from '../config/project.ts';
import { looksOf } from './looks.ts';
import { measureStretch, type StretchResults, type StretchTask } from './measure-stretch.ts';

/** Fewer frames than this are measured by whoever asks: a thread takes longer to begin. */
const FEW_FRAMES = 3;
/** Frames of a stretch: few enough that all threads have some, many enough that the frames beside them are read seldom twice. */
const LEAST_STRETCH = 4;
const LONGEST_STRETCH = 12;

/** Measures all frames of a task in stretches, on so many threads (`apart`: even if they are few), and hands each stretch over as it is done. @param stopped asked before each stretch */
export async function measureOnThreads(
  task: StretchTask,
  { threads, apart }: { readonly threads: number; readonly apart: boolean },
  onResults: (results: StretchResults, frames: number) => Promise<void>,
  stopped: () => boolean = () => false,
): Promise<void> {
  const count = task.to - task.from;
  if (count <= FEW_FRAMES && !apart) return onResults(await measureStretch(task), count);
  const { Piscina } = await import('piscina');
  const pool = new Piscina<StretchTask, StretchResults>({ filename: path.join(servicesFolder(), 'assay-worker.js'), maxThreads: threads });
  const size = Math.min(LONGEST_STRETCH, Math.max(LEAST_STRETCH, Math.ceil(count / threads)));
  let next = task.from;
  const lane = async () => {
    while (next < task.to && !stopped()) {
      const [from, to] = [next, Math.min(task.to, next + size)];
      next = to;
      // Only the frames that it needs go along: it may look two beyond either end.
      const first = Math.max(0, from - 2);
      const frames = task.frames.slice(first, to + 2);
      const looks = task.looks && looksOf(task.looks, task.frames.slice(from, to));
      await onResults(await pool.run({ ...task, frames, looks, from: from - first, to: to - first }), to - from);
    }
  };
  try {
    await Promise.all(Array.from({ length: threads }, lane));
  } finally {
    await pool.destroy();
  }
}
