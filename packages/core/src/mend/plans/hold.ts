import type { Order } from '../../brief/index.ts';
import { framePath } from '../../naming/index.ts';
import type { FrameSet } from '../../ranges/index.ts';
import type { Assignment } from '../../tally/index.ts';
import type { MendPlan, MendStep } from '../steps.ts';
import { isAmong } from './wanted.ts';

/**
 * Fills holes with copies of the nearest frame, the earlier one of two as near: stopgaps, by which an edit plays through and
 * which count as no sound frames.
 *
 * @param frames which of the missing ones; all of them where none is named
 * @param isSound whether a frame of a pass may stand in for another
 */
export function planHold(
  order: Order,
  { claims }: Assignment,
  wanted: { readonly frames: FrameSet; readonly passes: readonly string[] },
  isSound: (pass: string, frame: number) => boolean,
): MendPlan {
  const steps: MendStep[] = [];
  const conflicts: MendPlan['conflicts'][number][] = [];
  order.passes.forEach(({ pass, pattern, frames, owner }, index) => {
    if (owner !== index || !isAmong(wanted.passes, order, index)) return;
    const there = claims[index]!;
    const holes = [...frames].filter((frame) => !there.has(frame) && (wanted.frames.isEmpty || wanted.frames.has(frame)));
    // A file of another format or version would be what its new name does not say.
    const isOne = (frame: number) =>
      there.get(frame)!.length === 1 && there.get(frame)!.every(({ relation }) => relation !== 'format' && relation !== 'version');
    const sources = [...there.keys()].filter((frame) => isOne(frame) && isSound(pass.name, frame)).sort((a, b) => a - b);
    if (holes.length > 0 && sources.length === 0)
      conflicts.push({ files: [], message: `No frame of ${pass.name} is sound, so none can stand in for another.` });
    else
      for (const frame of holes) {
        const nearest = sources.reduce((best, other) => (Math.abs(other - frame) < Math.abs(best - frame) ? other : best));
        const { path, size, modified } = there.get(nearest)![0]!.file;
        steps.push({
          ...{ action: 'write', from: path, to: framePath(pattern, frame), stopgap: true, seen: { size, modified } },
          reason: `frame ${nearest} stands in for ${frame} until it is rendered`,
        });
      }
  });
  return { steps, conflicts };
}
