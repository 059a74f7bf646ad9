import { rm } from 'node:fs/promises';
import path from 'node:path';
import zlib from 'node:zlib';
import { halfToFloat, memorySource, rewriteExr, seenAt, steadyFrame, type EncoderTools, type Plane, type SteadiedFrame } from '@mint-tally/core';
import { accessError, HeldFolder, moveInto, writeWhole } from '@mint-tally/disk';
import { codecTools } from '../inspection/codec-tools.ts';
import { withFile } from '../inspection/inspect-file.ts';
import { contentOf, SOURCE_NOTE } from './already-there.ts';
import { FilteredWindow, type FilteredPicture, type FilterTask } from './filtered-window.ts';

/** A stretch of frames that are denoised one after the other. */
export interface DenoiseTask extends FilterTask {
  /** Places in `frames`: the first that is written, and the one behind the last. */
  readonly from: number;
  readonly to: number;
  /** Real path of a folder below which is written, and where below it. */
  readonly limit: string;
  readonly out: string;
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
  /** Root mean square over the tiles that were measured of the noise that is left; null where nothing is known. */
  readonly noise: number | null;
  /** Likewise of what differs from the frame before, along the vectors; null without vectors or neighbours. */
  readonly temporalNoise: number | null;
  /** Frames beside it that took part. */
  readonly companions: number;
  /** Single bright pixels that were made like those around. */
  readonly fireflies: number;
  /** Pixels that are no numbers, and were left as they are. */
  readonly holes: number;
  readonly seconds: number;
}

/** Denoises a stretch and writes its frames. @throws FileAccessError, NotRewrittenError */
export async function denoiseStretch(task: DenoiseTask): Promise<DenoisedFrame[]> {
  const window = new FilteredWindow(task);
  const folder = HeldFolder.open(task.limit, task.out);
  const done: DenoisedFrame[] = [];
  let before: Denoised | null = null;
  try {
    for (let at = task.from; at < task.to; at++) {
      const began = performance.now();
      const { frame, colours } = task.frames[at]!;
      const picture = window.get(at);
      if (!picture) {
        done.push({ frame, file: null, noise: null, temporalNoise: null, companions: 0, fireflies: 0, holes: 0, seconds: 0 });
        before = null;
        continue;
      }
      const companions = window.companionsOf(at, task.reach);
      const steadied: Pick<SteadiedFrame, 'colours' | 'left'> = companions.length > 0 ? steadyFrame(picture, companions) : picture;
      const source = colours[task.pass]!.path;
      const file = path.posix.basename(source);
      await writeFrame(task, picture, steadied.colours, source, folder, file);
      const temporalNoise: number | null = before && differenceAlong({ picture, left: steadied.left }, before, window, at);
      // The first has none before it: the next one tells as much.
      if (temporalNoise !== null && done.at(-1)!.temporalNoise === null) done.push({ ...done.pop()!, temporalNoise });
      done.push({
        frame,
        file,
        noise: leftOf(task, at, picture, steadied.left),
        temporalNoise,
        companions: companions.length,
        fireflies: picture.fireflies.length,
        holes: picture.holes?.reduce((sum, hole) => sum + hole, 0) ?? 0,
        seconds: (performance.now() - began) / 1000,
      });
      before = { picture, left: steadied.left };
      // The next one is held against this one, whether it is steadied or not.
      window.letGoBefore(at + 1 - Math.max(1, task.reach));
    }
  } finally {
    folder.close();
  }
  return done;
}

/** A frame that is done, and what is left of noise as large as its own. */
interface Denoised {
  readonly picture: FilteredPicture;
  readonly left: Float32Array;
}

/** A third of the time of zlib's usual level, and hardly larger: the OpenEXR library's own choice. */
const QUICKLY: EncoderTools = { ...codecTools, deflate: (data) => zlib.deflateSync(data, { level: 4 }) };

/** Writes a frame under another name, and gives it its own once it is whole. */
async function writeFrame(
  { folder: shot, notes }: DenoiseTask,
  { channels, holes, decoded }: FilteredPicture,
  colours: readonly Float32Array[],
  source: string,
  folder: HeldFolder,
  name: string,
): Promise<void> {
  if (holes)
    colours.forEach((plane, c) =>
      keepHoles(
        plane,
        decoded.planes.find(({ channel }) => channel === channels[c])!,
        holes,
      ),
    );
  const changed = new Map(channels.map((channel, c) => [channel, colours[c]!]));
  const bytes = withFile(shot, source, (file) => {
    const original = file.read(0, file.size);
    return rewriteExr(memorySource(original), decoded, changed, { ...notes, [SOURCE_NOTE]: contentOf(original) }, QUICKLY);
  });
  const unfinished = `.${name}.unfinished`;
  await rm(folder.at(unfinished), { force: true }).catch((thrown: unknown) => {
    throw accessError(thrown, path.join(folder.path, unfinished));
  });
  await writeWhole(folder, unfinished, bytes);
  await moveInto(folder, unfinished, folder, name);
}

/** What is no number in the file is none in what is written either: filling it would hide it. */
function keepHoles(plane: Float32Array, { type, data, offset, stride }: Plane, holes: Uint8Array): void {
  for (let i = 0; i < plane.length; i++) if (holes[i] !== 0) plane[i] = type === 'half' ? halfToFloat(data[offset + i * stride]!) : data[offset + i * stride]!;
}

/** Over the tiles that were measured, of what the filter leaves of noise as large as theirs. */
function leftOf({ sigmas }: DenoiseTask, at: number, { width, height }: FilteredPicture, left: Float32Array): number | null {
  const across = Math.ceil(width / 16);
  const measured = sigmas[at];
  if (!measured) return null;
  const [sums, counts] = [new Float64Array(measured.length), new Float64Array(measured.length)];
  for (let y = 0, i = 0; y < height; y++) {
    for (let x = 0; x < width; x++, i++) {
      const tile = (y >> 4) * across + (x >> 4);
      sums[tile] = sums[tile]! + left[i]! ** 2;
      counts[tile] = counts[tile]! + 1;
    }
  }
  let [sum, tiles] = [0, 0];
  measured.forEach((sigma, tile) => {
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
