import { detailKept, greyOf, knownNoise, noiseLeft, steadyFrame, type DetailSums, type SteadiedFrame } from '@mint-tally/core';
import { HeldFolder } from '@mint-tally/disk';
import { companionsOf, type FilteredPictures } from './companions.ts';
import type { FilteredPicture, FilterTask } from './filter-one.ts';
import { readReference } from './references.ts';
import { writeDenoised, writeGhosts, type PassToWrite } from './write-frame.ts';

/** A file that is written of a frame: more passes than one where their originals live in one file. */
export interface FileToWrite {
  readonly passes: readonly string[];
  /** Its original, relative to the shot's folder. */
  readonly source: string;
  /** Where below the task's limit, and what it is called there. */
  readonly out: string;
  readonly name: string;
  /** Texts for its header. */
  readonly notes: Readonly<Record<string, string>>;
}

/** Frames that are denoised and written. */
export interface DenoiseTask extends FilterTask {
  /** Real path of a folder below which is written. */
  readonly limit: string;
  /** What each frame's file of the pass is called. */
  readonly names: readonly string[];
  /** Files of each frame that are not there yet. */
  readonly files: readonly (readonly FileToWrite[])[];
  /** Where below `limit` is written what neighbours were kept out of, as a picture; null for nowhere. */
  readonly ghosts: string | null;
  /** Better renders of each frame, where there are some; null for none. */
  readonly references: readonly (string | null)[];
  /** Frames before and after that take part in each. */
  readonly reach: number;
  /** Texts for the headers of other pictures. */
  readonly notes: Readonly<Record<string, string>>;
}

/** What became of a frame. */
export interface DenoisedFrame {
  readonly frame: number;
  /** Its file's name in the folder that was written to; null where the frame could not be read. */
  readonly file: string | null;
  /** Root mean square over the tiles that were measured of the noise that was there; null where nothing is known. */
  readonly noiseBefore: number | null;
  /** Likewise of what is left. */
  readonly noise: number | null;
  /** Likewise of what differs from the frame before, along the vectors; null without vectors or neighbours. */
  readonly temporalNoise: number | null;
  /** Frames beside it that took part. */
  readonly companions: number;
  /** What of its detail is found again, against a better render where there is one; null where it is not a test. */
  readonly detail: (DetailSums & { readonly isReferred: boolean }) | null;
  /** Single bright pixels that were made like those around. */
  readonly fireflies: number;
  /** Pixels that are no numbers, and were left as they are. */
  readonly holes: number;
  /** Lights that could not go along: they are not there, cannot be read, or are of another size. */
  readonly without: readonly string[];
  /** Of a thread, for itself. */
  readonly seconds: number;
}

/** A frame that is done, and what is left of noise as large as its own; null of one that could not be read. */
export interface FinishedFrame {
  readonly told: Omit<DenoisedFrame, 'temporalNoise' | 'seconds'>;
  readonly left: Float32Array | null;
}

/** Steadies a frame by those that go along with it, and writes it. @throws FileAccessError, NotRewrittenError */
export async function finishOne(task: DenoiseTask, at: number, pictures: FilteredPictures): Promise<FinishedFrame> {
  const { frame } = task.frames[at]!;
  const picture = pictures.get(at);
  if (!picture) {
    const nothing = { file: null, noiseBefore: null, noise: null, companions: 0, detail: null, fireflies: 0, holes: 0, without: [] };
    return { told: { frame, ...nothing }, left: null };
  }
  const companions = companionsOf(task, pictures, at, task.reach);
  const steadied: SteadiedFrame | null = companions.length > 0 ? steadyFrame(picture, companions) : null;
  const { colours: clean, lights, left } = steadied ?? picture;
  const name = task.names[at]!;
  const done = new Map<string, PassToWrite>([[task.pass, { ...picture, colours: clean }]]);
  task.lights.forEach((light, l) => {
    const [held, planes] = [picture.beside[l], lights[l]];
    if (held && planes) done.set(light, { ...held, colours: planes });
  });
  for (const file of task.files[at]!) {
    const passes = file.passes.flatMap((pass) => done.get(pass) ?? []);
    if (passes.length > 0) await writeIn(task, file.out, (folder) => writeDenoised(task, picture, passes, file, folder));
  }
  const { ghosts } = task;
  if (ghosts !== null) await writeIn(task, ghosts, (folder) => writeGhosts(task, picture, steadied?.refused ?? new Float32Array(left.length), folder, name));
  return {
    told: {
      frame,
      file: name,
      noiseBefore: noiseBefore(picture),
      noise: picture.sigmas && noiseLeft(left, picture.sigmas, picture),
      companions: companions.length,
      detail: detailOf(task, at, picture, clean, left),
      fireflies: picture.fireflies.length,
      holes: picture.holes?.reduce((sum, hole) => sum + hole, 0) ?? 0,
      without: task.lights.filter((light) => !done.has(light)),
    },
    // In memory of its own: that of the picture may be wanted back before.
    left: steadied ? left : left.slice(),
  };
}

async function writeIn({ limit }: DenoiseTask, out: string, write: (folder: HeldFolder) => Promise<void>): Promise<void> {
  const folder = HeldFolder.open(limit, out);
  try {
    await write(folder);
  } finally {
    folder.close();
  }
}

function detailOf(task: DenoiseTask, at: number, picture: FilteredPicture, clean: readonly Float32Array[], left: Float32Array): DenoisedFrame['detail'] {
  if (!picture.original) return null;
  const file = task.references[at];
  const reference = file ? readReference(file, picture.decoded, picture.outer) : null;
  const known = noiseGiven(picture, task.frames[at]!.frame);
  return { ...detailKept(picture.original, { luminance: greyOf(clean), left, known }, reference), isReferred: reference !== null };
}

/** The noise that the filter was given to tell what it leaves. */
function noiseGiven({ deviation }: FilteredPicture, frame: number): Float32Array {
  const known = knownNoise(deviation.length, frame);
  return known.map((value, i) => value * deviation[i]!);
}

function noiseBefore({ sigmas }: FilteredPicture): number | null {
  const known = sigmas?.filter(Number.isFinite);
  return known && known.length > 0 ? Math.sqrt(known.reduce((sum, sigma) => sum + sigma * sigma, 0) / known.length) : null;
}
