import { fitNoise, fitTime, samplesForVariance, secondsAt, type Brief, type NoiseFit, type TimeFit } from '../brief/index.ts';
import type { AssayedFrame } from './assayed-frame.ts';
import { TILE } from './pair-noise.ts';
import type { Rectangle } from './tile-regions.ts';

/** What it would take to bring a pass down to a target; figures that cannot be told are null. */
export interface CleanCost {
  /** The frame that needs most. */
  readonly worst: AssayedFrame;
  /** So many times the samples that it has. */
  readonly times: number;
  readonly samples: number | null;
  /** Where the law comes from: the fit of the shot's own test frames, or the square root law. */
  readonly by: 'tests' | 'square root';
  /** Hours on one machine: every frame, those above the target, and in those the crop alone; NaN for no crop. */
  readonly hours: { readonly whole: number; readonly noisy: number; readonly crop: number } | null;
  /** The smallest rectangle of tiles without which every frame is clean enough; null where that is most of the picture. */
  readonly crop: Rectangle | null;
}

/**
 * What a target costs, by the noise that was measured and the law of the brief's test frames (see `NoiseFit`): its c as it is,
 * and a and b in proportion. Without test frames it is the square root law.
 *
 * @param frames of one pass
 * @returns null where no frame is above the target; `times` is infinite where no number of samples would do
 */
export function costOfClean(frames: readonly AssayedFrame[], target: number, sampling: Brief['sampling']): CleanCost | null {
  const noisy = frames.filter(({ noise }) => noise !== null && noise > target);
  if (noisy.length === 0) return null;
  const worst = noisy.reduce((most, frame) => (frame.noise! > most.noise! ? frame : most));
  const noiseLaw = fitNoise(sampling?.tests ?? []);
  const timeLaw = fitTime(sampling?.tests ?? []);
  const had = worst.samples ?? sampling?.samples ?? null;
  const times = timesOf(worst.noise!, target, noiseLaw, had);
  const samples = had === null || !Number.isFinite(times) ? null : Math.ceil(had * times);
  const crop = cropOf(noisy, target);
  return { worst, times, samples, by: noiseLaw ? 'tests' : 'square root', hours: hoursOf(frames, noisy, times, crop, timeLaw, sampling, target), crop };
}

/** How many times the samples bring a noise down to a target. @param had samples that it has; null where nobody noted it */
function timesOf(noise: number, target: number, law: NoiseFit | null, had: number | null): number {
  const rest = law ? Math.min(law.c, noise) ** 2 : 0;
  const room = target * target - rest;
  if (!(room > 0)) return Infinity;
  const falls = noise * noise - rest;
  const edges = law && law.b > 0 && had !== null ? law.b ** 2 / (law.a ** 2 * Math.sqrt(had) + law.b ** 2) : 0;
  return samplesForVariance(falls * (1 - edges), falls * edges, room);
}

function hoursOf(
  frames: readonly AssayedFrame[],
  noisy: readonly AssayedFrame[],
  times: number,
  crop: Rectangle | null,
  law: TimeFit | null,
  sampling: Brief['sampling'],
  target: number,
): CleanCost['hours'] {
  if (!Number.isFinite(times)) return null;
  const cost = (frame: AssayedFrame, more: number): number => {
    const had = frame.samples ?? sampling?.samples ?? null;
    // What a frame took is worth more than what test frames let expect; their fit says what of it does not grow with the samples.
    const seconds = frame.seconds ?? (law && had !== null ? secondsAt(law, had) : null) ?? sampling?.secondsPerFrame ?? NaN;
    const fixed = law && had !== null ? (law.t0 / secondsAt(law, had)) * seconds : 0;
    return fixed + (seconds - fixed) * more;
  };
  const sum = (some: readonly AssayedFrame[], more: (frame: AssayedFrame) => number) => some.reduce((all, frame) => all + cost(frame, more(frame)), 0) / 3600;
  const whole = sum(frames, () => times);
  if (!Number.isFinite(whole)) return null;
  const ofCrop = crop === null ? NaN : noisy.reduce((all, frame) => all + cost(frame, timesIn(frame, crop, target)) * shareOf(frame, crop), 0) / 3600;
  return { whole, noisy: sum(noisy, () => times), crop: ofCrop };
}

const shareOf = ({ grid }: AssayedFrame, [, , width, height]: Rectangle) => (width * height) / (grid.width * grid.height);

/** How many times the samples a crop needs for its own noise to come down to the target. */
function timesIn({ tiles, grid }: AssayedFrame, [left, top, width, height]: Rectangle, target: number): number {
  let [sum, count] = [0, 0];
  tiles.forEach((sigma, tile) => {
    const [x, y] = [(tile % grid.across) * TILE, Math.floor(tile / grid.across) * TILE];
    if (!Number.isFinite(sigma) || x < left || y < top || x >= left + width || y >= top + height) return;
    sum += sigma * sigma;
    count++;
  });
  return count === 0 ? 1 : Math.max(1, sum / count / target ** 2);
}

/** A crop of more than this share of the picture saves nothing worth the trouble. */
const LARGEST_CROP = 0.6;

/** The rectangle around the noisiest tiles, of all frames together, without which each comes down to the target. */
function cropOf(noisy: readonly AssayedFrame[], target: number): Rectangle | null {
  const { grid } = noisy[0]!;
  if (noisy.some((frame) => frame.grid.width !== grid.width || frame.grid.height !== grid.height)) return null;
  const within = new Set(noisy.flatMap((frame) => tilesAbove(frame, target)));
  if (within.size === 0) return null;
  const columns = [...within].map((tile) => tile % grid.across);
  const rows = [...within].map((tile) => Math.floor(tile / grid.across));
  const [left, top] = [Math.min(...columns) * TILE, Math.min(...rows) * TILE];
  const [right, bottom] = [Math.min(grid.width, (Math.max(...columns) + 1) * TILE), Math.min(grid.height, (Math.max(...rows) + 1) * TILE)];
  const area = (right - left) * (bottom - top);
  return area > LARGEST_CROP * grid.width * grid.height ? null : [left, top, right - left, bottom - top];
}

/** A frame's noisiest tiles, so many that the rest with those at the target has no more than the target. */
function tilesAbove({ tiles }: AssayedFrame, target: number): number[] {
  const told = [...tiles.keys()].filter((tile) => Number.isFinite(tiles[tile]!)).sort((a, b) => tiles[b]! - tiles[a]!);
  let sum = told.reduce((all, tile) => all + tiles[tile]! ** 2, 0);
  const most = target ** 2 * told.length;
  const above: number[] = [];
  for (const tile of told) {
    if (sum <= most) break;
    sum += target ** 2 - tiles[tile]! ** 2;
    above.push(tile);
  }
  return above;
}
