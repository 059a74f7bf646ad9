import type { Brief, Order } from '../brief/index.ts';
import { framePath } from '../naming/index.ts';
import { formatFrameRange, FrameSet, parseFrameRange } from '../ranges/index.ts';

/** A brief for some passes and frames of another: what a part of a shot is to be held against. Passes without any frame left fall out. */
export function narrowBrief(brief: Brief, passes: readonly string[] | null, frames: FrameSet | null): Brief {
  const range = frames === null ? brief.range : formatFrameRange(parseFrameRange(brief.range).intersection(frames));
  return {
    ...brief,
    range,
    // Whatever was said of the whole is not true of a part.
    ...(range === brief.range ? {} : { duration: undefined, handles: undefined, sound: undefined, loop: undefined }),
    passes: brief.passes.flatMap((pass) => {
      if (passes !== null && !passes.includes(pass.name)) return [];
      if (pass.range === undefined || frames === null) return [pass];
      const own = parseFrameRange(pass.range).intersection(frames);
      return own.isEmpty ? [] : [{ ...pass, range: formatFrameRange(own) }];
    }),
  };
}

/**
 * Splits a shot into volumes of at most so many bytes at frame borders, every pass of a frame in one; a frame that is larger than
 * that has a volume of its own.
 *
 * @param sizeOf of a file, by its path; 0 where there is none
 * @returns the frames of each volume, in order
 */
export function splitIntoVolumes({ passes }: Order, sizeOf: (path: string) => number, most: number): FrameSet[] {
  const own = passes.filter(({ owner }, index) => owner === index);
  const all = own.reduce((frames, pass) => frames.union(pass.frames), FrameSet.empty);
  const volumes: number[][] = [];
  let held = Infinity;
  for (const frame of all) {
    const bytes = own.reduce((sum, { pattern, frames }) => sum + (frames.has(frame) ? sizeOf(framePath(pattern, frame)) : 0), 0);
    if (held + bytes > most) {
      volumes.push([]);
      held = 0;
    }
    volumes.at(-1)!.push(frame);
    held += bytes;
  }
  return volumes.map((frames) => FrameSet.of(frames));
}
