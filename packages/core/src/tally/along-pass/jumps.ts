import { thumbnailDistance } from '../../assay/index.ts';
import type { FrameSet } from '../../ranges/index.ts';
import { median } from '../../statistics.ts';
import type { FindingCollector } from '../findings.ts';
import type { SeenFrame, SeenPass } from './seen-pass.ts';

/** Passes whose picture goes on like the camera does. */
const GOES_ON: ReadonlySet<string> = new Set(['beauty', 'depth', 'normal', 'albedo', 'other']);
/** A step this many times the usual one is a cut; the brief may say otherwise. */
export const JUMP_TIMES = 8;
/**
 * Where things move quickly the usual step is large, but most of the picture stays; at a cut all
 * of it changes. So it is enough when the typical cell changes by so many times the usual, and
 * the picture by this share of that.
 */
const SHARE_OF_PICTURE = 0.35;
/** What explains a sudden change; it is told under its own name. */
const TOLD_OTHERWISE = ['blank-frame', 'missing-region', 'frozen-frame', 'loop-repeat', 'wrong-window'] as const;
/**
 * Where the picture changes by fits and starts anyway, one more is no cut: it must be so many times
 * the largest step around, but for two, which may be cuts themselves.
 */
const STANDS_OUT = 2.5;
/** Steps are compared with those of so many frames on either side. */
const NEIGHBOURS = 10;
/** Steps below this, of a range of 2, are nothing that anybody sees. */
const LEAST_STEP = 0.015;
/** The usual step is taken to be no smaller than this: a camera at rest would make every move a cut. */
const LEAST_USUAL = 0.002;
/** A gap of missing frames up to this is stepped over, its step shared out. */
const LONGEST_GAP = 4;
/** When the picture comes back this near, the stretch between two cuts is an intruder. */
const COME_BACK = 0.35;

interface Step {
  readonly index: number;
  /** Root mean square of the cells' changes. */
  readonly size: number;
  /** Change of the typical cell; worked out where it is asked for. */
  readonly typical: () => number;
}

/**
 * Frames whose picture differs from those around by far more than these differ among themselves: another camera, another
 * scene. A short run between two jumps, or before the only one or behind it, is named as a whole; at a cut the frame behind it.
 *
 * @param expected frames that begin another picture, as the brief says
 */
export function findJumps(collector: FindingCollector, pass: SeenPass, times: number, expected: FrameSet): void {
  if (!GOES_ON.has(pass.role)) return;
  const known = pass.frames.filter((seen) => seen.thumbnail !== null && !seen.isOdd && !seen.isBlank && !collector.has(pass.name, seen.frame, TOLD_OTHERWISE));
  if (known.length < 5) return;
  const steps = known.slice(1).map((frame, i): Step => {
    const gap = pass.ordered.frames.indexOf(frame.frame) - pass.ordered.frames.indexOf(known[i]!.frame);
    const [before, here] = [known[i]!.thumbnail!, frame.thumbnail!];
    const share = gap > LONGEST_GAP ? 0 : 1 / Math.max(1, gap);
    return { index: i + 1, size: share * thumbnailDistance(before, here), typical: () => share * typicalChange(before, here) };
  });
  const cuts = steps.filter((step) => isCut(step, steps, times) && !isExpected(known[step.index - 1]!, known[step.index]!, expected));
  for (let c = 0; c < cuts.length; c++) {
    const cut = cuts[c]!;
    const factor = cut.size / usualStep(cut.index, steps, 'size');
    const start = cuts[c - 1]?.index ?? 0;
    const end = cuts[c + 1]?.index ?? known.length;
    const isRun = isForeignRun(c, cuts, known, steps) && !(isForeignRun(c + 1, cuts, known, steps) && runLength(c + 1, cuts) < runLength(c, cuts));
    if (isRun) {
      // A jump in and a jump out: what stands between them does not belong.
      tellJump(collector, pass, known.slice(cut.index, end), known[cut.index - 1]!, factor);
      c++;
    } else if (c === 0 && isShort(cut.index, end - cut.index)) tellJump(collector, pass, known.slice(0, cut.index), known[cut.index]!, factor);
    else if (c === cuts.length - 1 && isShort(end - cut.index, cut.index - start))
      tellJump(collector, pass, known.slice(cut.index), known[cut.index - 1]!, factor);
    else tellJump(collector, pass, [known[cut.index]!], known[cut.index - 1]!, factor);
  }
}

/** Whether a cut lies between two frames: at the second of them, or where frames lack at one before it. */
function isExpected(before: SeenFrame, here: SeenFrame, expected: FrameSet): boolean {
  for (let frame = before.frame + 1; frame <= here.frame; frame++) if (expected.has(frame)) return true;
  return false;
}

/** A stretch of so few frames at either end, beside one so many times as long, is what does not belong. */
const SHORT = 5;
const LONGER = 3;

function isShort(frames: number, beside: number): boolean {
  return frames <= SHORT && frames * LONGER <= beside;
}

const runLength = (c: number, cuts: readonly Step[]) => cuts[c + 1]!.index - cuts[c]!.index;

/**
 * Whether what stands between a cut and the next does not belong. Where single frames do not, far from each other, what
 * lies between two of them looks like such a run as well: the shorter one is.
 */
function isForeignRun(c: number, cuts: readonly Step[], known: readonly SeenFrame[], steps: readonly Step[]): boolean {
  const [cut, back] = [cuts[c], cuts[c + 1]];
  return cut !== undefined && back !== undefined && comesBack(cut, back, known, steps) && runLength(c, cuts) * 2 <= known.length;
}

/**
 * Whether the picture after a second cut is that before the first, moved on by as much as the
 * time between makes likely.
 */
function comesBack(cut: Step, back: Step, known: readonly SeenFrame[], steps: readonly Step[]): boolean {
  const moved = usualStep(cut.index, steps, 'size') * (back.index - cut.index + 1);
  const allowed = Math.min(cut.size * 0.7, Math.max(cut.size * COME_BACK, moved));
  return thumbnailDistance(known[cut.index - 1]!.thumbnail!, known[back.index]!.thumbnail!) < allowed;
}

function isCut(step: Step, steps: readonly Step[], times: number): boolean {
  if (step.size < LEAST_STEP) return false;
  if (step.size < STANDS_OUT * thirdLargestStep(step.index, steps)) return false;
  const factor = step.size / usualStep(step.index, steps, 'size');
  if (factor > times) return true;
  if (factor <= times * SHARE_OF_PICTURE) return false;
  const typical = step.typical();
  return typical >= LEAST_STEP && typical > times * usualStep(step.index, steps, 'typical');
}

function typicalChange(a: Float32Array, b: Float32Array): number {
  return median(Array.from(a, (value, i) => Math.abs(value - b[i])));
}

function stepsAround(index: number, steps: readonly Step[]): Step[] {
  // Steps stand in order, the first being that to place 1.
  return steps.slice(Math.max(0, index - 1 - NEIGHBOURS), index + NEIGHBOURS).filter((step) => step.index !== index);
}

function thirdLargestStep(index: number, steps: readonly Step[]): number {
  const sizes = stepsAround(index, steps)
    .map((step) => step.size)
    .sort((a, b) => b - a);
  return sizes[Math.min(2, sizes.length - 1)] ?? 0;
}

function usualStep(index: number, steps: readonly Step[], of: 'size' | 'typical'): number {
  const around = stepsAround(index, steps);
  return Math.max(LEAST_USUAL, median(around.map((step) => (of === 'size' ? step.size : step.typical()))));
}

/**
 * Names the frames that do not belong.
 *
 * @param beside the nearest frame that does, before them or behind
 */
function tellJump(collector: FindingCollector, pass: SeenPass, run: readonly SeenFrame[], beside: SeenFrame, factor: number): void {
  const times = factor.toFixed(factor < 10 ? 1 : 0);
  for (const { frame, file } of run) {
    const side = beside.frame < frame ? 'From' : 'To';
    collector.add('jump', pass.name, {
      frame,
      file: file.path,
      evidence: `${side} frame ${beside.frame} the picture changes ${times} times as much as from frame to frame around.`,
      beside: beside.file.path,
    });
  }
}
