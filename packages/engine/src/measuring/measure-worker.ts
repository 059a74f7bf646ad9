import { statSync } from 'node:fs';
import path from 'node:path';
import {
  describeError,
  luminanceOf,
  measureGradients,
  measureTestRenders,
  MintError,
  readRenderNotes,
  type Gradients,
  type MeasuredTests,
  type Render,
} from '@mint-tally/core';
import { inspectFile } from '../inspection/inspect-file.ts';

/** One picture that may be a test render. */
export interface TestFile {
  /** Below the task's folder. */
  readonly name: string;
  /** What whoever ordered it knows better than the file. */
  readonly seconds?: number;
}

export interface MeasureTask {
  /** Real path; nothing outside it is read. */
  readonly folder: string;
  readonly files: readonly TestFile[];
  /** The colour pass's own channels where it shares its files. */
  readonly channels: readonly string[] | null;
}

/** What test renders gave; `left` names the files that could not serve, with why. */
export interface Measured extends MeasuredTests {
  readonly gradients: Gradients | null;
  /** Bytes of a pixel on disk, in the middle. */
  readonly bytesPerPixel: number;
  readonly used: readonly { readonly name: string; readonly samples: number; readonly seconds: number | null }[];
  readonly left: readonly { readonly name: string; readonly why: string }[];
}

/** Reads and measures test renders of one frame. Runs in a thread of its own. */
export default function measureFiles(task: MeasureTask): Measured | { error: { code: string; message: string; remedy: string } } {
  try {
    return measureAll(task);
  } catch (thrown) {
    // An error loses its class on the way out of a thread; its words are what counts.
    if (thrown instanceof MintError) return { error: { code: thrown.code, message: thrown.message, remedy: thrown.remedy } };
    throw thrown;
  }
}

function measureAll({ folder, files, channels }: MeasureTask): Measured {
  const renders: (Render & { name: string; linear: boolean; bytesPerPixel: number })[] = [];
  const left: { name: string; why: string }[] = [];
  for (const file of files) {
    try {
      renders.push(readRender(folder, file, channels));
    } catch (thrown) {
      if (!(thrown instanceof MintError)) throw thrown;
      left.push({ name: file.name, why: describeError(thrown) });
    }
  }
  const first = renders[0]!;
  const same = renders.filter(({ luminance }) => luminance.width === first.luminance.width && luminance.height === first.luminance.height);
  for (const { name, luminance } of renders) {
    if (!same.some((one) => one.name === name)) left.push({ name, why: `It is ${luminance.width} x ${luminance.height}, not as large as ${first.name}.` });
  }
  if (same.length === 0) {
    throw new MintError('no-test-frames', `No file there is a test frame${left.length > 0 ? `: ${left[0]!.name}: ${left[0]!.why}` : '.'}`, {
      remedy: 'Render one frame at two or more sample counts, with the samples in the files’ metadata, and choose that folder.',
    });
  }
  const best = same.reduce((most, render) => (render.samples > most.samples ? render : most));
  const sizes = same.map((render) => render.bytesPerPixel).sort((a, b) => a - b);
  return {
    ...measureTestRenders(same),
    gradients: measureGradients(best.luminance, best.linear),
    bytesPerPixel: sizes[Math.floor(sizes.length / 2)],
    used: same.map(({ name, samples, seconds }) => ({ name, samples, seconds })),
    left,
  };
}

function readRender(folder: string, file: TestFile, channels: readonly string[] | null) {
  const { facts, frame } = inspectFile(folder, file.name, 'full');
  if (!frame) throw new MintError('unreadable', facts.problem?.message ?? facts.notExamined ?? 'Its pixels cannot be read here.');
  const notes = readRenderNotes(frame.header.metadata);
  if (notes.samples === null) throw new MintError('no-samples', 'Its metadata names no number of samples.');
  const luminance = luminanceOf(frame, channels);
  if (!luminance) throw new MintError('no-colour', 'It has no red, green and blue.');
  const linear = frame.planes.some(({ type }) => type === 'half' || type === 'float');
  return {
    name: file.name,
    samples: notes.samples,
    seconds: file.seconds ?? notes.seconds,
    luminance,
    linear,
    bytesPerPixel: statSync(path.join(folder, file.name)).size / (luminance.width * luminance.height),
  };
}
