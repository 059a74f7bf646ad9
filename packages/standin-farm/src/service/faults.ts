import { MintError, parseFrameRange, type FrameSet } from '@mint-tally/core';
import { Random } from '../render/random.ts';

/** What can go wrong on a machine. */
export const faultKinds = [
  /** Dies in the middle of a frame: the file is cut short. */
  'cut-short',
  'empty-file',
  /** Tells the frame done and has written nothing. */
  'skip',
  'other-camera',
  'half-size',
  'fewer-samples',
  /** Renders with the settings of the version before. */
  'old-version',
  /** The first frames after a start have not settled. */
  'cold-start',
  /** One pass is written from the frame before. */
  'lagging-pass',
  /** Never comes back from a frame. */
  'hang',
  /** Everything on the machine stops; frames done stay. */
  'power-loss',
] as const;
export type FaultKind = (typeof faultKinds)[number];

/** Faults for a machine's frames, chosen by hand or by a seed. */
export interface FaultPlan {
  readonly chosen: readonly { machine: string; kind: FaultKind; frames: FrameSet | null }[];
  readonly random: { seed: number; share: number } | null;
}

/** Frames after a machine's start that a cold start touches. */
export const COLD_FRAMES = 3;
/** Chance gives out only what leaves the machine standing. */
const RANDOM_KINDS: readonly FaultKind[] = ['cut-short', 'empty-file', 'skip', 'other-camera', 'half-size', 'fewer-samples', 'old-version', 'lagging-pass'];

/**
 * Reads `reef:cut-short:1010-1011,clove:cold-start` (machine, kind, frames; all frames when there
 * are none) and `random:7:0.05` (seed, share of the frames), separated by commas or semicolons.
 *
 * @throws MintError
 */
export function parseFaults(text: string): FaultPlan {
  const chosen: { machine: string; kind: FaultKind; frames: FrameSet | null }[] = [];
  let random: FaultPlan['random'] = null;
  // A comma also stands inside a range; what does not begin with a word belongs to the fault before.
  for (const one of text.split(/[;,](?=\s*[a-z])/).map((part) => part.trim())) {
    if (one === '') continue;
    const [machine, second, third] = one.split(':') as [string, string?, string?];
    if (machine === 'random') {
      const [seed, share] = [Number(second), Number(third)];
      if (!Number.isInteger(seed) || !(share >= 0 && share <= 1)) throw new MintError('faults', `${one} is no seed and share, such as random:7:0.05.`);
      random = { seed, share };
      continue;
    }
    const kind = faultKinds.find((known) => known === second);
    if (!kind) throw new MintError('faults', `${second ?? one} is no fault; there are ${faultKinds.join(', ')}.`);
    chosen.push({ machine, kind, frames: third ? parseFrameRange(third) : null });
  }
  return { chosen, random };
}

/** What goes wrong with a frame on a machine; null when nothing does. The same plan answers the same. */
export function faultOf(plan: FaultPlan, machine: string, frame: number, framesSinceStart: number): FaultKind | null {
  for (const fault of plan.chosen) {
    if (fault.machine !== machine || (fault.frames && !fault.frames.has(frame))) continue;
    if (fault.kind === 'cold-start' && framesSinceStart >= COLD_FRAMES) continue;
    return fault.kind;
  }
  if (!plan.random) return null;
  const random = new Random();
  random.seed(plan.random.seed, frame, [...machine].reduce((sum, letter) => sum * 31 + letter.charCodeAt(0), 7) | 0);
  if (random.next() >= plan.random.share) return null;
  return RANDOM_KINDS[Math.floor(random.next() * RANDOM_KINDS.length)]!;
}
