import type { Plane } from '../../formats/index.ts';
import { findZeroRuns, type PixelSamples } from '../../kernels/index.ts';
import type { EmptyRegion } from './schema.ts';

/** Smaller regions than this are not told from the picture's own black. */
const LEAST_PIXELS = 64;
const MOST_REGIONS = 8;
/** A frame with more runs of zeros than this a line has no clean edges anywhere. */
const MOST_RUNS_A_LINE = 64;
/** Shorter runs are specks. */
const LEAST_RUN = 8;

interface Region {
  left: number;
  right: number;
  top: number;
  bottom: number;
  pixels: number;
  /** How many runs begin and end where; and where the first of them began, and the last ended. */
  readonly starts: Map<number, number>;
  readonly ends: Map<number, number>;
  first: number;
  last: number;
  lines: number;
}

interface Run {
  start: number;
  end: number;
  region: Region;
}

/**
 * Finds stretches of exact zeros, in every plane, whose edges are straight: a block or bucket that
 * was never written, a block of the disk that was never filled, the lines behind a stop. A
 * picture's own black has edges that wander. The whole picture is not told; it is blank.
 *
 * @param planes all of one size
 */
export function findEmptyRegions(planes: readonly Plane[]): EmptyRegion[] {
  const { width, height } = planes[0]!;
  const regions = new Set<Region>();
  const found = findZeroRuns(samplesOf(planes), width, height, LEAST_RUN, MOST_RUNS_A_LINE);
  let above: Run[] = [];
  let aboveLine = -1;
  for (let i = 0; i < found.length;) {
    const y = found[i]!;
    // Only the line right above joins.
    if (aboveLine !== y - 1) above = [];
    const line: Run[] = [];
    let at = 0;
    for (; i < found.length && found[i] === y; i += 3) {
      const [start, end] = [found[i + 1]!, found[i + 2]!];
      // A line with too many runs ends whatever stood above it.
      if (start < 0) continue;
      while (at < above.length && above[at]!.end < start) at++;
      let region: Region | null = null;
      for (let k = at; k < above.length && above[k]!.start <= end; k++) {
        if (region === null) region = above[k]!.region;
        else if (region !== above[k]!.region) region = join(region, above[k]!.region, regions, [...above, ...line]);
      }
      if (region === null) {
        region = { left: start, right: end, top: y, bottom: y, pixels: 0, starts: new Map(), ends: new Map(), first: start, last: end, lines: 0 };
        regions.add(region);
      }
      addRun(region, start, end, y);
      line.push({ start, end, region });
    }
    above = line;
    aboveLine = y;
  }
  return [...regions]
    .filter((region) => region.pixels >= LEAST_PIXELS && region.pixels < width * height && isStraight(region, width))
    .sort((a, b) => b.pixels - a.pixels)
    .slice(0, MOST_REGIONS)
    .map(({ left, right, top, bottom, pixels }) => {
      const region = { x: left, y: top, width: right - left + 1, height: bottom - top + 1, pixels };
      return { ...region, living: livingAround(region, planes) };
    });
}

/** Each array once, with all the channels that lie in it. */
function samplesOf(planes: readonly Plane[]): PixelSamples[] {
  const arrays = new Map<Plane['data'], PixelSamples>();
  for (const { data, stride, type } of planes) {
    // Minus zero is zero.
    if (!arrays.has(data)) arrays.set(data, { data, stride, mask: type === 'half' ? 0x7fff7fff : type === 'float' ? 0x7fffffff : 0xffffffff });
  }
  return [...arrays.values()];
}

/** So many different values along an edge, one in so many pixels, are a picture; a drawing has few. */
const PIXELS_A_VALUE = 12;

/**
 * How much of a picture stands right around a region, 0 to 1: the share of pixels along its sides that are not zero,
 * lessened where they hold few different values, as flat colours beside a drawn black do.
 */
function livingAround({ x, y, width, height }: Omit<EmptyRegion, 'living'>, planes: readonly Plane[]): number {
  const [pictureWidth, pictureHeight] = [planes[0]!.width, planes[0]!.height];
  const values = new Set<string>();
  let looked = 0;
  let alive = 0;
  const look = (px: number, py: number) => {
    if (px < 0 || py < 0 || px >= pictureWidth || py >= pictureHeight) return;
    looked++;
    const pixel = planes.map(({ data, offset, stride }) => data[offset + (py * pictureWidth + px) * stride]);
    if (pixel.some((value) => value !== 0)) alive++;
    values.add(pixel.join());
  };
  for (let px = x; px < x + width; px++) {
    look(px, y - 1);
    look(px, y + height);
  }
  for (let py = y; py < y + height; py++) {
    look(x - 1, py);
    look(x + width, py);
  }
  if (looked === 0) return 0;
  return Math.round(100 * (alive / looked) * Math.min(1, (values.size * PIXELS_A_VALUE) / looked)) / 100;
}

function addRun(region: Region, start: number, end: number, y: number): void {
  region.left = Math.min(region.left, start);
  region.right = Math.max(region.right, end);
  region.bottom = Math.max(region.bottom, y);
  region.last = end;
  region.pixels += end - start + 1;
  region.lines++;
  region.starts.set(start, (region.starts.get(start) ?? 0) + 1);
  region.ends.set(end, (region.ends.get(end) ?? 0) + 1);
}

function join(a: Region, b: Region, regions: Set<Region>, runs: readonly Run[]): Region {
  a.left = Math.min(a.left, b.left);
  a.right = Math.max(a.right, b.right);
  if (b.top < a.top) [a.top, a.first] = [b.top, b.first];
  a.bottom = Math.max(a.bottom, b.bottom);
  a.pixels += b.pixels;
  a.lines += b.lines;
  for (const [start, count] of b.starts) a.starts.set(start, (a.starts.get(start) ?? 0) + count);
  for (const [end, count] of b.ends) a.ends.set(end, (a.ends.get(end) ?? 0) + count);
  for (const run of runs) if (run.region === b) run.region = a;
  regions.delete(b);
  return a;
}

/**
 * Straight: all lines begin at one place and end at one, over eight lines or more, as a rectangle does; but the first may
 * begin later, and the last end sooner, as a run of whole lines does that begins and ends inside one. A small ball, which
 * is narrower at its top and its foot, is none. Lower ones must be very long.
 */
function isStraight(region: Region, width: number): boolean {
  const height = region.bottom - region.top + 1;
  // A line that is split in two by something that is not zero makes more runs than lines.
  const split = region.lines - height;
  if (split > 1 || !isEven(region.starts, region.left, region.first, split) || !isEven(region.ends, region.right, region.last, split)) return false;
  if (height >= 8) return region.right - region.left >= 7;
  return region.pixels >= Math.max(512, width / 4);
}

/** Whether runs begin, or end, at one place, but for the outermost of them and the parts of a line that is split. */
function isEven(places: ReadonlyMap<number, number>, usual: number, outermost: number, split: number): boolean {
  const others = [...places].filter(([place]) => place !== usual);
  const odd = others.reduce((sum, [, count]) => sum + count, 0);
  return odd <= split + (outermost === usual ? 0 : 1);
}
