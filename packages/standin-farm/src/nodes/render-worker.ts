import { replaceWhole } from '@mint-tally/disk';
import { renderFrame, type FrameSettings } from '../render/frame.ts';
import { encodePasses, type FrameNotes, type PassFile } from './frame-files.ts';

/** One frame for a render node: what to render, and the files to make from it. */
export interface FrameTask {
  readonly settings: FrameSettings;
  readonly notes: FrameNotes;
  readonly files: readonly PassFile[];
  /** Rays a second of the machine, for the render time in the file; none is noted without it. */
  readonly raysPerSecond?: number;
  /** Files from settings of their own: a pass that lags behind the others. */
  readonly lagging?: { readonly pass: string; readonly settings: FrameSettings };
  /** Shared with whoever waits: whether to stop, and the samples done so far. */
  readonly control?: Int32Array;
  /** Where the files are written, each moved into place whole; they are handed back when null. */
  readonly folder: string | null;
}

export const STOP = 0;
export const SAMPLES_DONE = 1;

/** What came of a task. */
export interface RenderResult {
  readonly samples: number;
  /** Rays followed. */
  readonly segments: number;
  readonly files: readonly { readonly path: string; readonly bytes: Uint8Array }[];
}

/** The render nodes' work: renders a frame and makes its files. Null when it was stopped. */
export default function renderTask(task: FrameTask): RenderResult | null {
  const { control } = task;
  const frame = renderFrame(task.settings, (samplesDone) => {
    if (!control) return 'go on';
    Atomics.store(control, SAMPLES_DONE, samplesDone);
    return Atomics.load(control, STOP) === 0 ? 'go on' : 'stop';
  });
  if (!frame) return null;
  const late = task.lagging && renderFrame(task.lagging.settings);
  const notes: FrameNotes = {
    ...task.notes,
    samples: frame.samples,
    ...(task.raysPerSecond === undefined ? {} : { renderTime: frame.segments / task.raysPerSecond }),
  };
  const files = [...shareFiles(task.files)].map(([place, passes]) => {
    const source = late && passes.some(({ pass }) => pass === task.lagging!.pass) ? late : frame;
    return { path: place, bytes: encodePasses(source, passes, notes) };
  });
  if (task.folder === null) return { samples: frame.samples, segments: frame.segments, files };
  for (const { path: place, bytes } of files) {
    replaceWhole(task.folder, place, bytes);
  }
  return { samples: frame.samples, segments: frame.segments, files: [] };
}

/** Passes by the file that they stand in. */
function shareFiles(files: readonly PassFile[]): Map<string, PassFile[]> {
  const byPath = new Map<string, PassFile[]>();
  for (const file of files) byPath.set(file.path, [...(byPath.get(file.path) ?? []), file]);
  return byPath;
}
