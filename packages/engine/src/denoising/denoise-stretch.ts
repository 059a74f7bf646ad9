import { detailKept, greyOf, knownNoise, seenAt, steadyFrame, TILE, tilesAcross, type DetailSums, type SteadiedFrame } from '@mint-tally/core';
import { HeldFolder } from '@mint-tally/disk';
import { FilteredWindow, type FilteredPicture, type FilterTask } from './filtered-window.ts';
import { readReference } from './references.ts';
import { writeDenoised, writeGhosts } from './write-frame.ts';

/** A stretch of frames that are denoised one after the other. */
export interface DenoiseTask extends FilterTask {
  /** Places in `frames`: the first that is written, and the one behind the last. */
  readonly from: number;
  readonly to: number;
  /** Real path of a folder below which is written, and where below it. */
  readonly limit: string;
  readonly out: string;
  /** What each frame's file is called there. */
  readonly names: readonly string[];
  /** Where below `limit` is written what neighbours were kept out of, as a picture; null for nowhere. */
  readonly ghosts: string | null;
  /** Better renders of each frame, where there are some; null for none. */
  readonly references: readonly (string | null)[];
  /** Frames before and after that take part in each. */
  readonly reach: number;
  /** Texts for the files' headers. */
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
  readonly seconds: number;
}

/** What a stretch came to. */
export interface DenoisedStretch {
  readonly frames: readonly DenoisedFrame[];
  /** Frames that were filtered for it, those beside it too, and the seconds that one of them took. */
  readonly filtered: number;
  readonly secondsEach: number;
}

/** Who looks after a stretch while it is worked on. */
export interface StretchCare {
  /** Told after each frame that is written. */
  readonly onFrame: () => void;
  /** Asked before a frame is filtered; when it says so, what is left is not begun. */
  readonly isStopped: () => boolean;
}

/** Leaves the work in the middle; what has been written stands. */
class Stopped extends Error {}

/** Denoises a stretch and writes its frames; those that were done when it was stopped. @throws FileAccessError, NotRewrittenError */
export async function denoiseStretch(task: DenoiseTask, { onFrame, isStopped }: StretchCare): Promise<DenoisedStretch> {
  const window = new FilteredWindow(task, () => {
    if (isStopped()) throw new Stopped();
  });
  const folders = [task.out, ...(task.ghosts === null ? [] : [task.ghosts])].map((out) => HeldFolder.open(task.limit, out));
  const done: DenoisedFrame[] = [];
  let before: Denoised | null = null;
  // The first one makes everything warm: others take less.
  let from = { at: performance.now(), filtered: 0 };
  try {
    for (let at = task.from; at < task.to; at++) {
      const frame = await denoiseOne(task, at, window, folders, before);
      // The first has none before it: the next one tells as much.
      if (frame.told.temporalNoise !== null && done.length === 1 && done[0]!.temporalNoise === null)
        done[0] = { ...done[0]!, temporalNoise: frame.told.temporalNoise };
      done.push(frame.told);
      before = frame.done;
      if (at === task.from && task.to - task.from > 1) from = { at: performance.now(), filtered: window.filtered };
      // The next one is held against this one, whether it is steadied or not.
      window.letGoBefore(at + 1 - Math.max(1, task.reach));
      onFrame();
    }
  } catch (thrown) {
    if (!(thrown instanceof Stopped)) throw thrown;
  } finally {
    for (const folder of folders) folder.close();
  }
  const { filtered } = window;
  return { frames: done, filtered, secondsEach: (performance.now() - from.at) / 1000 / Math.max(1, filtered - from.filtered) };
}

/** A frame that is done, and what is left of noise as large as its own. */
interface Denoised {
  readonly picture: FilteredPicture;
  readonly left: Float32Array;
}

async function denoiseOne(task: DenoiseTask, at: number, window: FilteredWindow, [folder, ghosts]: readonly HeldFolder[], before: Denoised | null) {
  const began = performance.now();
  const { frame, colours } = task.frames[at]!;
  const picture = window.get(at);
  if (!picture) {
    const nothing = { file: null, noiseBefore: null, noise: null, temporalNoise: null, companions: 0, detail: null, fireflies: 0, holes: 0, seconds: 0 };
    return { told: { frame, ...nothing }, done: null };
  }
  const companions = window.companionsOf(at, task.reach);
  const steadied: SteadiedFrame | null = companions.length > 0 ? steadyFrame(picture, companions) : null;
  const { colours: clean, left } = steadied ?? picture;
  const name = task.names[at]!;
  await writeDenoised(task, picture, clean, colours[task.pass]!.path, folder!, name);
  if (ghosts) await writeGhosts(task, picture, steadied?.refused ?? new Float32Array(left.length), ghosts, name);
  const told: DenoisedFrame = {
    frame,
    file: name,
    noiseBefore: noiseBefore(picture),
    noise: leftOf(picture, left),
    temporalNoise: before && differenceAlong({ picture, left }, before, window, at),
    companions: companions.length,
    detail: detailOf(task, at, picture, clean, left),
    fireflies: picture.fireflies.length,
    holes: picture.holes?.reduce((sum, hole) => sum + hole, 0) ?? 0,
    seconds: (performance.now() - began) / 1000,
  };
  return { told, done: { picture, left } };
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

/** Over the tiles that were measured, of what the filter leaves of noise as large as theirs. */
function leftOf({ sigmas, width, height }: FilteredPicture, left: Float32Array): number | null {
  if (!sigmas) return null;
  const across = tilesAcross(width);
  const [sums, counts] = [new Float64Array(sigmas.length), new Float64Array(sigmas.length)];
  for (let y = 0, i = 0; y < height; y++) {
    for (let x = 0; x < width; x++, i++) {
      const tile = Math.floor(y / TILE) * across + Math.floor(x / TILE);
      sums[tile] = sums[tile]! + left[i]! ** 2;
      counts[tile] = counts[tile]! + 1;
    }
  }
  let [sum, tiles] = [0, 0];
  sigmas.forEach((sigma, tile) => {
    if (!Number.isFinite(sigma)) return;
    sum += sums[tile]! / counts[tile]!;
    tiles++;
  });
  return tiles === 0 ? null : Math.sqrt(sum / tiles);
}

/** Half the mean square of what the noise that is left differs by from the frame before, at the same points. */
function differenceAlong({ picture, left }: Denoised, before: Denoised, window: FilteredWindow, at: number): number | null {
  const companion = window.beforeOf(at);
  if (companion?.frame !== before.picture) return null;
  const seen = seenAt(picture, before.picture, companion.trail);
  let [sum, count] = [0, 0];
  for (let i = 0; i < seen.length; i++) {
    if (seen[i]! < 0) continue;
    sum += (left[i]! - before.left[seen[i]!]!) ** 2 / 2;
    count++;
  }
  return count === 0 ? null : Math.sqrt(sum / count);
}
