import path from 'node:path';
import { servicesFolder } from '../config/project.ts';
import { looksOf } from './looks.ts';
import { DONE, measureStretch, STOPPED, type StretchResults, type StretchTask } from './measure-stretch.ts';

/** Fewer frames than this are measured by whoever asks: a thread takes longer to begin. */
const FEW_FRAMES = 3;
/** Frames of a stretch: few enough that all threads have some, many enough that the frames beside them are read seldom twice. */
const LEAST_STRETCH = 4;
const LONGEST_STRETCH = 24;
/** How often threads are asked how far they are, and told that they should stop, in milliseconds. */
const LOOK_EVERY = 100;

/** How frames are measured, and who looks after them meanwhile. */
export interface MeasureCare {
  readonly threads: number;
  /** Whoever asks has other things to do: even few frames get threads of their own. */
  readonly apart: boolean;
  /** Told what each stretch gave, as it is done. */
  readonly onResults: (results: StretchResults) => Promise<void>;
  /** Told how many frames have been measured. */
  readonly onDone: (frames: number) => void;
  /** Asked before each frame; when it says so, what is left is not begun. */
  readonly isStopped: () => boolean;
}

/** Measures all frames of a task in stretches, on so many threads. */
export async function measureOnThreads(whole: Omit<StretchTask, 'care'>, { threads, apart, onResults, onDone, isStopped }: MeasureCare): Promise<void> {
  const care = new Int32Array(new SharedArrayBuffer(8));
  const task: StretchTask = { ...whole, care };
  const count = task.to - task.from;
  if (count <= FEW_FRAMES && !apart) {
    await onResults(await measureStretch(task));
    return onDone(count);
  }
  let told = 0;
  const look = () => {
    if (isStopped()) Atomics.store(care, STOPPED, 1);
    const done = Atomics.load(care, DONE);
    if (done > told) onDone((told = done));
  };
  const { Piscina } = await import('piscina');
  const pool = new Piscina<StretchTask, StretchResults>({ filename: path.join(servicesFolder(), 'assay-worker.js'), maxThreads: threads });
  const size = Math.min(LONGEST_STRETCH, Math.max(LEAST_STRETCH, Math.ceil(count / threads)));
  let next = task.from;
  const lane = async () => {
    while (next < task.to && !isStopped()) {
      const [from, to] = [next, Math.min(task.to, next + size)];
      next = to;
      // Only the frames that it needs go along: it may look two beyond either end.
      const first = Math.max(0, from - 2);
      const frames = task.frames.slice(first, to + 2);
      const looks = task.looks && looksOf(task.looks, task.frames.slice(from, to));
      await onResults(await pool.run({ ...task, frames, looks, from: from - first, to: to - first }));
    }
  };
  const looking = setInterval(look, LOOK_EVERY);
  try {
    await Promise.all(Array.from({ length: threads }, lane));
    look();
  } finally {
    clearInterval(looking);
    await pool.destroy();
  }
}
