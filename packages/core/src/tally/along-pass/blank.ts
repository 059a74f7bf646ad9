import { isAlphaName } from '../../formats/index.ts';
import { median } from '../../statistics.ts';
import type { FindingCollector } from '../findings.ts';
import type { SeenFrame, SeenPass } from './seen-pass.ts';

/** Passes that show things which may leave the picture: they are blank by right when nothing is there. */
const MAY_BE_EMPTY: ReadonlySet<string> = new Set(['light', 'matte', 'id', 'occlusion', 'motion']);
/** How far on either side such a pass must show something for a blank frame to be odd. */
const NEAR = 3;
/** Share of the picture that has to be covered there. */
const COVERED = 0.01;
/** A neighbour darker than this share of the usual is the end of a fade. */
const FADED = 0.2;

/** Frames that are one value all over, where the pass shows a picture otherwise. */
export function findBlankFrames(collector: FindingCollector, pass: SeenPass): void {
  const known = pass.frames.filter((frame) => frame.channels.length > 0);
  const blank = known.filter((frame) => frame.isBlank);
  if (blank.length === 0) return;
  const shown = known.filter((frame) => !frame.isBlank);
  if (shown.length === 0 && pass.role !== 'beauty') return;
  const usual = shown.length > 0 ? median(shown.map(brightness)) : 0;
  for (const frame of blank) {
    const before = shown.findLast((other) => other.frame < frame.frame) ?? null;
    const after = shown.find((other) => other.frame > frame.frame) ?? null;
    if (shown.length > 0 && !isOddlyBlank(pass, frame, before, after, usual)) continue;
    const values = frame.channels.map(({ name, min }) => `${name} ${min}`).join(', ');
    collector.add('blank-frame', pass.name, {
      frame: frame.frame,
      file: frame.file.path,
      evidence: `Every pixel is the same: ${values}.`,
      beside: (before ?? after)?.file.path,
    });
  }
}

function isOddlyBlank(pass: SeenPass, frame: SeenFrame, before: SeenFrame | null, after: SeenFrame | null, usual: number): boolean {
  if (MAY_BE_EMPTY.has(pass.role)) {
    const covers = (other: SeenFrame | null) => other !== null && Math.abs(other.frame - frame.frame) <= NEAR && coverage(other) >= COVERED;
    return covers(before) && covers(after);
  }
  const isFaded = (other: SeenFrame | null) => other !== null && brightness(other) < usual * FADED;
  return !isFaded(before) && !isFaded(after);
}

function brightness({ channels }: SeenFrame): number {
  return Math.max(0, ...channels.filter(({ name }) => !isAlphaName(name)).map(({ mean }) => Math.abs(mean ?? 0)));
}

function coverage({ channels }: SeenFrame): number {
  return 1 - Math.min(...channels.map(({ zero }) => zero));
}
