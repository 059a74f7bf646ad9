import type { Brief, Order } from '../brief/index.ts';
import { framePath } from '../naming/index.ts';
import { formatFrameRange, FrameSet } from '../ranges/index.ts';

/** What has changed of a shot since an earlier package. */
export interface Delta {
  /** A brief for what has changed alone: each pass with its own frames. Null where nothing has. */
  readonly brief: Brief | null;
  /** Files that are as they were. */
  readonly unchanged: number;
  /** Files that were there, and are not part of the shot any more. */
  readonly gone: readonly string[];
}

/**
 * What a package holds that sends only what has changed.
 *
 * @param sha256Of of a file by its path; null where there is none
 * @param before checksums of the earlier package's frames, by their paths
 */
export function changedSince({ brief, passes }: Order, sha256Of: (path: string) => string | null, before: ReadonlyMap<string, string>): Delta {
  const changed = new Map<string, FrameSet>();
  const own = new Set<string>();
  let unchanged = 0;
  passes.forEach(({ pass, pattern, frames, owner }, index) => {
    const numbers: number[] = [];
    for (const frame of frames) {
      const file = framePath(pattern, frame);
      own.add(file);
      const sha256 = sha256Of(file);
      if (sha256 !== null && before.get(file) !== sha256) numbers.push(frame);
      else if (sha256 !== null && owner === index) unchanged++;
    }
    if (numbers.length > 0) changed.set(pass.name, FrameSet.of(numbers));
  });
  const all = [...changed.values()].reduce((sum, frames) => sum.union(frames), FrameSet.empty);
  return {
    brief: all.isEmpty
      ? null
      : {
          ...brief,
          range: formatFrameRange(all),
          // Whatever was said of the whole is not true of a part.
          ...{ duration: undefined, handles: undefined, sound: undefined, loop: undefined },
          passes: brief.passes.flatMap((pass) => {
            const frames = changed.get(pass.name);
            return frames ? [{ ...pass, range: formatFrameRange(frames) }] : [];
          }),
        },
    unchanged,
    gone: [...before.keys()].filter((file) => !own.has(file)),
  };
}
