import type { Order } from '../../brief/index.ts';
import { formatFrameRange, FrameSet } from '../../ranges/index.ts';
import { intendedPath, type Assignment } from '../../tally/index.ts';
import type { MendPlan, MendStep } from '../steps.ts';
import { isAmong } from './wanted.ts';

/**
 * Sets aside what was not ordered: frames outside the range or off its step, leftovers of writes that did not end, and files
 * that belong to no pass; and frames that somebody names, ordered or not, such as handles, a start that has not settled, or the
 * frame that a loop repeats. Sequences of their own are left: somebody may have put them there for a reason.
 * Where they are kept is for whoever carries it out to say.
 *
 * @param kept paths that are never taken, such as the brief itself
 * @param named frames of these passes that go as well
 */
export function planTrim(
  order: Order,
  { claims, unexpected, strays }: Assignment,
  kept: ReadonlySet<string>,
  named: { readonly frames: FrameSet; readonly passes: readonly string[] } = { frames: FrameSet.empty, passes: [] },
): MendPlan {
  const aside = (path: string, reason: string): MendStep => ({ action: 'set-aside', from: path, to: path, reason });
  const chosen = claims.flatMap((byFrame, pass) =>
    isAmong(named.passes, order, pass)
      ? [...byFrame].flatMap(([frame, list]) => (named.frames.has(frame) ? list.map(({ file }) => ({ file, frame })) : []))
      : [],
  );
  return {
    steps: [
      ...chosen.map(({ file, frame }) => aside(file.path, `frame ${frame} was named to be taken out`)),
      ...unexpected.map(({ file, pass, frame }) => {
        const { frames, pass: ordered } = order.passes[pass]!;
        const isOutside = frames.isEmpty || frame < frames.first! || frame > frames.last!;
        return aside(file.path, `frame ${frame} is ${isOutside ? 'outside of' : 'not among'} ${formatFrameRange(frames)}, which is ordered of ${ordered.name}`);
      }),
      ...strays
        .filter(({ path, kind }) => kind === 'file' && !kept.has(path))
        .map(({ path }) => aside(path, intendedPath(path) === null ? 'it belongs to no ordered pass' : 'it was left behind by a write that did not end')),
    ],
    conflicts: [],
  };
}
