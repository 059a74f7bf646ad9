import { aroundTiles, sayPlace, touchingTiles, type AssayedFrame } from '../../assay/index.ts';
import { median } from '../../statistics.ts';
import type { FindingCollector } from '../findings.ts';
import { roughly } from '../../wording.ts';

/** A frame that departs from those beside it by this share of its light; */
const LEAST = 0.02;
/** and by so many times what frames usually do. */
const STANDS_OUT = 6;
/** Where frames usually depart by this, the whole shot pumps. */
const PUMPS = 0.03;
/** What noise alone makes of the mean must be so many times less: spikes make more of it than their spread says. */
const BEYOND_NOISE = 8;
/** Fewer frames say nothing of what is usual. */
const FEWEST = 6;

/** Frames whose light leaps up or down and comes back: a step, or a slow change, does not. */
export function findFlicker(collector: FindingCollector, frames: readonly AssayedFrame[]): void {
  const told = frames.filter(({ meanLuminance }) => meanLuminance !== null && meanLuminance > 0);
  if (told.length < FEWEST) return;
  const levels = told.map(({ meanLuminance }) => Math.log(meanLuminance!));
  // From the middle of both neighbours; the ends have but one, and are not judged.
  const departures = levels.map((level, i) => (i === 0 || i === levels.length - 1 ? 0 : level - (levels[i - 1]! + levels[i + 1]!) / 2));
  const usual = median(departures.slice(1, -1).map(Math.abs));
  const alternates = departures.slice(2, -1).filter((departure, i) => Math.sign(departure) === -Math.sign(departures[i + 1]!)).length;
  const noise = BEYOND_NOISE * median(told.map(({ luminanceError, meanLuminance }) => (luminanceError ?? 0) / meanLuminance!));
  const pumps = usual > Math.max(PUMPS, noise) && alternates > 0.8 * (departures.length - 3);
  const least = Math.max(LEAST, noise, STANDS_OUT * 1.4826 * usual);
  const isTold = told.map((_, i) => {
    if (i === 0 || i === told.length - 1 || !(pumps || isLeap(departures, i, least))) return false;
    return isEverywhere([told[i - 1]!, told[i]!, told[i + 1]!], departures[i]!);
  });
  if (!pumps) findPumpingRegions(collector, told, isTold);
  told.forEach(({ pass, frame, file }, i) => {
    const departure = departures[i]!;
    if (!isTold[i]) return;
    const percent = roughly(Math.abs(Math.expm1(departure)) * 100);
    const detail = pumps ? 'brighter and darker in turn' : `${departure > 0 ? 'brighter' : 'darker'} than the frames on either side`;
    collector.add('flicker', pass, { frame, file, detail, evidence: `${percent} % ${departure > 0 ? 'more' : 'less'} light than between them.` });
  });
}

/** A part of the picture that pumps has so many tiles at least; */
const FEWEST_TILES = 6;
/** and goes up and down between so many of its frames: of what flickers by chance three in four do. */
const TURNS = 0.6;
/** What noise alone makes of a tile's mean must be so many times less. */
const BEYOND_TILE_NOISE = 1.5;
/** Tiles that pump as one do so together by this share of what each does; those that flicker for themselves do less. */
const TOGETHER = 0.5;
/** What noise alone makes of all of them must be so many times less. */
const BEYOND_GROUP_NOISE = 3;
const PIXELS_OF_A_TILE = 256;

/**
 * Parts of the picture whose light goes up and down from frame to frame throughout, as one: a lamp that pumps. What moves
 * through a tile changes its light as well, but neither to and fro, nor as its neighbours do.
 *
 * @param isTold which frames leap all over: they say nothing of a part
 */
function findPumpingRegions(collector: FindingCollector, frames: readonly AssayedFrame[], isTold: readonly boolean[]): void {
  const { grid } = frames[0]!;
  const count = grid.across * grid.down;
  if (frames.some(({ means, grid: { width, height } }) => means.length !== count || width !== grid.width || height !== grid.height)) return;
  const pumping = Array.from({ length: count }, (_, tile) => {
    const levels = frames.map(({ means }) => means[tile]!);
    if (!levels.every((level) => level > 0)) return false;
    const noises = frames.map((frame, i) => Math.sqrt(varianceOfMean(frame, tile)) / levels[i]!);
    return goesToAndFro(departuresOf(levels), PUMPS, noises, BEYOND_TILE_NOISE, isTold);
  });
  for (const group of touchingTiles(count, grid.across, (tile) => pumping[tile]!)) {
    if (group.length < FEWEST_TILES) continue;
    const departures = departuresOf(frames.map(({ means }) => sumOver(group, (tile) => means[tile]!)));
    const ofTiles = median(group.map((tile) => median(departuresOf(frames.map(({ means }) => means[tile]!)).map(Math.abs))));
    const noises = frames.map((frame) => Math.sqrt(sumOver(group, (tile) => varianceOfMean(frame, tile))) / sumOver(group, (tile) => frame.means[tile]!));
    if (!goesToAndFro(departures, Math.max(PUMPS, TOGETHER * ofTiles), noises, BEYOND_GROUP_NOISE, isTold)) continue;
    const place = aroundTiles(group, grid);
    const percent = roughly(Math.expm1(median(departures.map(Math.abs))) * 100);
    const detail = `brighter and darker in turn in ${place[2]} x ${place[3]} pixels at ${place[0]}, ${place[1]} (${sayPlace(place, grid)})`;
    for (const { pass, frame, file } of frames) collector.add('flicker', pass, { frame, file, detail, evidence: `Usually ${percent} % from frame to frame.` });
  }
}

/** What noise makes of a tile's mean; NaN where it is unknown. */
const varianceOfMean = ({ tiles, joinedPixels }: AssayedFrame, tile: number) => ((tiles[tile] ?? NaN) ** 2 * joinedPixels) / PIXELS_OF_A_TILE;

const sumOver = (group: readonly number[], of: (tile: number) => number) => group.reduce((sum, tile) => sum + of(tile), 0);

/** What the logarithm of each level but the first and the last departs by from the middle of those beside it. */
function departuresOf(levels: readonly number[]): number[] {
  const logarithms = levels.map(Math.log);
  return logarithms.slice(1, -1).map((level, i) => level - (logarithms[i]! + logarithms[i + 2]!) / 2);
}

/**
 * Whether light departs mostly by more than `least`, and by so many times what noise makes of it, and up and down in turn.
 *
 * @param noises of the frames, whose first and last have no departure: some may be far noisier than the others, and then so is
 *   what departs from them on either side
 * @param isLeftOut of the frames as well: what departs from them says nothing
 */
function goesToAndFro(departures: readonly number[], least: number, noises: readonly number[], beyondNoise: number, isLeftOut: readonly boolean[]): boolean {
  const turns = departures.slice(1).filter((departure, i) => Math.sign(departure) === -Math.sign(departures[i]!)).length;
  const isBeyond = departures.flatMap((departure, i) => {
    if (isLeftOut.slice(i, i + 3).includes(true)) return [];
    // As the noise of one frame is, where all have the same.
    const noise = Math.sqrt((noises[i + 1]! ** 2 + (noises[i]! ** 2 + noises[i + 2]! ** 2) / 4) / 1.5);
    return [Math.abs(departure) > Math.max(least, beyondNoise * noise)];
  });
  return turns >= TURNS * (departures.length - 1) && 2 * isBeyond.filter(Boolean).length > isBeyond.length;
}

/** Where the middle of the tiles departs by less than this share of what the whole picture does, a bright part of it makes the difference. */
const EVERYWHERE = 0.5;

/** Whether most of a picture departs from those beside it as its mean does: a lost bucket, a passing highlight or some fireflies are no flicker. */
function isEverywhere([before, own, after]: readonly [AssayedFrame, AssayedFrame, AssayedFrame], departure: number): boolean {
  if (before.means.length !== own.means.length || after.means.length !== own.means.length) return true;
  const ofTiles: number[] = [];
  own.means.forEach((mean, tile) => {
    const [earlier, later] = [before.means[tile]!, after.means[tile]!];
    if (mean > 0 && earlier > 0 && later > 0) ofTiles.push(Math.log(mean) - (Math.log(earlier) + Math.log(later)) / 2);
  });
  return ofTiles.length === 0 || median(ofTiles) / departure > EVERYWHERE;
}

/** A leap and back departs by twice what its neighbours do, the other way; a step departs as much on either side of itself. */
function isLeap(departures: readonly number[], i: number, least: number): boolean {
  const own = departures[i]!;
  if (Math.abs(own) < least) return false;
  const beside = [departures[i - 1]!, departures[i + 1]!].filter((_, side) => (side === 0 ? i > 1 : i < departures.length - 2));
  return beside.every((other) => Math.sign(other) === -Math.sign(own) && Math.abs(other) < 0.75 * Math.abs(own));
}
