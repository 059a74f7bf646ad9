import { THUMBNAIL_ACROSS, THUMBNAIL_DOWN, thumbnailDistance } from '../../assay/index.ts';
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

/** From the last frame to the first the picture of a loop changes at most so many times as much as it does elsewhere; */
const SEAM_TIMES = 4;
/** a change below this, of a range of 2, is nothing that anybody sees. */
const LEAST_SEAM = 0.015;
/** Where but a part of it moves: so many cells change so many times as much as they and those beside them ever do; */
const FEWEST_CELLS = 4;
const CELL_TIMES = 1.5;
const LEAST_CELL = 0.003;
/** and so many times as many as at any other step: what passes quickly changes cells that nothing else does at each of them. */
const TIMES_AS_MANY = 3;

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
  const cells = cellsThatJump(known);
  if ((seam < LEAST_SEAM || seam < SEAM_TIMES * usual) && cells === 0) return;
  const whole = `the picture changes ${(seam / usual).toFixed(1)} times as much as it does at most from frame to frame`;
  const parts = `${cells} of ${THUMBNAIL_ACROSS * THUMBNAIL_DOWN} parts of the picture change by half as much again as they or those beside them do at any step`;
  collector.add('loop-jump', pass.name, {
    frame: last.frame,
    file: last.file.path,
    evidence: `To frame ${first.frame} ${seam < SEAM_TIMES * usual ? parts : whole}.`,
    beside: first.file.path,
  });
}

/** In how many cells the seam of a loop changes more than any step along it does there; 0 where so few do that it may be chance. */
function cellsThatJump(known: readonly SeenFrame[]): number {
  const thumbnails = known.flatMap(({ thumbnail }) => thumbnail ?? []);
  const changes = thumbnails.map((thumbnail, i) => {
    const before = thumbnails.at(i - 1)!;
    return thumbnail.map((value, cell) => Math.abs(value - before[cell]!));
  });
  // The seam is the first of them, and no measure for the others.
  const [seam, ...steps] = changes;
  const [most, second] = twoLargest(steps.map(spreadToNeighbours), seam!.length);
  const jumping = (change: Float32Array, step: number) =>
    change.filter((value, cell) => value > LEAST_CELL && value > CELL_TIMES * (most[cell]!.step === step ? second[cell]! : most[cell]!.value)).length;
  const atSeam = jumping(seam!, -1);
  return atSeam >= Math.max(FEWEST_CELLS, TIMES_AS_MANY * Math.max(...steps.map(jumping))) ? atSeam : 0;
}

/** What changes most in a cell or one of those around it. */
function spreadToNeighbours(change: Float32Array): Float32Array {
  return change.map((_, cell) => {
    const [column, row] = [cell % THUMBNAIL_ACROSS, Math.floor(cell / THUMBNAIL_ACROSS)];
    let most = 0;
    for (let y = Math.max(0, row - 1); y <= Math.min(THUMBNAIL_DOWN - 1, row + 1); y++)
      for (let x = Math.max(0, column - 1); x <= Math.min(THUMBNAIL_ACROSS - 1, column + 1); x++) most = Math.max(most, change[y * THUMBNAIL_ACROSS + x]!);
    return most;
  });
}

/** By cell, the largest value of all steps with its step, and the second largest. */
function twoLargest(steps: readonly Float32Array[], cells: number) {
  const most = Array.from({ length: cells }, () => ({ step: -1, value: 0 }));
  const second = new Float32Array(cells);
  steps.forEach((values, step) =>
    values.forEach((value, cell) => {
      if (value <= most[cell]!.value) second[cell] = Math.max(second[cell]!, value);
      else [second[cell], most[cell]] = [most[cell]!.value, { step, value }];
    }),
  );
  return [most, second] as const;
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
