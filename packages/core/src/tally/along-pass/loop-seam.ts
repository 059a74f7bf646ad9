import { thumbnailDistance } from '../../assay/index.ts';
import type { Brief } from '../../brief/index.ts';
import { median } from '../../statistics.ts';
import type { FindingCollector } from '../findings.ts';
import { comparable, isStill } from './repeats.ts';
import type { SeenFrame, SeenPass } from './seen-pass.ts';

/** Passes in which the first picture may well come back although nothing goes round. */
const COMES_BACK: ReadonlySet<string> = new Set(['light', 'matte', 'id', 'occlusion', 'motion']);
/** With other noise the same picture is this much nearer than the next one, at least. */
const SAME_PICTURE = 0.35;
const FEWEST_FRAMES = 8;

/** A last frame that shows the first again: the turn is one frame too long, and stutters. */
export function findLoopRepeat(collector: FindingCollector, pass: SeenPass, brief: Brief): void {
  if (brief.loop === false || (COMES_BACK.has(pass.role) && brief.loop !== true)) return;
  const known = comparable(pass);
  const { frames } = pass.ordered;
  if (known.length < 3) return;
  const [first, last] = [known[0]!, known[known.length - 1]!];
  if (first.frame !== frames.first || last.frame !== frames.last) return;
  if (last.picture === known[known.length - 2]!.picture) return;
  const isSame = last.picture === first.picture;
  if (!isSame && !(pass.role === 'beauty' && known.length >= FEWEST_FRAMES && showsSame(known))) return;
  if (isStill(known)) return;
  collector.add('loop-repeat', pass.name, {
    frame: last.frame,
    file: last.file.path,
    evidence: isSame ? `Pixel by pixel the picture of frame ${first.frame}.` : `But for its noise the picture of frame ${first.frame}.`,
    beside: first.file.path,
  });
}

/** From the last frame to the first the picture of a loop changes at most so many times as much as it does elsewhere. */
const SEAM_TIMES = 4;
/** A change below this, of a range of 2, is nothing that anybody sees. */
const LEAST_SEAM = 0.015;

/** A loop whose last frame does not lead on to its first. */
export function findLoopJump(collector: FindingCollector, pass: SeenPass, { loop, cuts }: Brief): void {
  if (loop !== true || pass.role !== 'beauty' || cuts !== undefined) return;
  const known = comparable(pass);
  const { frames } = pass.ordered;
  const [first, last] = [known[0], known[known.length - 1]];
  if (!first || !last || known.length < FEWEST_FRAMES || first.frame !== frames.first || last.frame !== frames.last) return;
  if (!first.thumbnail || !last.thumbnail || collector.has(pass.name, last.frame, ['jump']) || collector.has(pass.name, first.frame, ['jump'])) return;
  const seam = thumbnailDistance(first.thumbnail, last.thumbnail);
  const usual = Math.max(...stepsOf(known));
  if (seam < LEAST_SEAM || seam < SEAM_TIMES * usual) return;
  collector.add('loop-jump', pass.name, {
    frame: last.frame,
    file: last.file.path,
    evidence: `To frame ${first.frame} the picture changes ${(seam / usual).toFixed(1)} times as much as it does at most from frame to frame.`,
    beside: first.file.path,
  });
}

function stepsOf(known: readonly SeenFrame[]): number[] {
  return known.slice(1).flatMap(({ thumbnail }, i) => {
    const before = known[i]!.thumbnail;
    return thumbnail && before ? [thumbnailDistance(before, thumbnail)] : [];
  });
}

function showsSame(known: readonly SeenFrame[]): boolean {
  const steps = stepsOf(known);
  const [a, b] = [known[0]!.thumbnail, known[known.length - 1]!.thumbnail];
  return a !== null && b !== null && steps.length > 0 && thumbnailDistance(a, b) < median(steps) * SAME_PICTURE;
}
