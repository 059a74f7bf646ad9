import type { Plane } from '../../formats/index.ts';
import type { EmptyRegion } from './schema.ts';

/** Smaller regions than this are not told from the picture's own black. */
const LEAST_PIXELS = 64;
const MOST_REGIONS = 8;
/** A frame with more runs of zeros than this a line has no clean edges anywhere. */
const MOST_RUNS_A_LINE = 64;

interface Region {
  left: number;
  right: number;
  top: number;
  bottom: number;
  pixels: number;
  readonly starts: Map<number, number>;
  readonly ends: Map<number, number>;
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
  const [{ width, height }] = planes;
  const isZero = zeroTest(planes);
  const regions = new Set<Region>();
  let above: Run[] = [];
  for (let y = 0; y < height; y++) {
    const runs = runsOfLine(isZero, y, width);
    if (runs.length > MOST_RUNS_A_LINE) {
      above = [];
      continue;
    }
    let at = 0;
    const line: Run[] = [];
    for (const [start, end] of runs) {
      while (at < above.length && above[at].end < start) at++;
      let region: Region | null = null;
      for (let k = at; k < above.length && above[k].start <= end; k++) {
        if (region === null) region = above[k].region;
        else if (region !== above[k].region) region = join(region, above[k].region, regions, [...above, ...line]);
      }
      if (region === null) {
        region = { left: start, right: end, top: y, bottom: y, pixels: 0, starts: new Map(), ends: new Map(), lines: 0 };
        regions.add(region);
      }
      addRun(region, start, end, y);
      line.push({ start, end, region });
    }
    above = line;
  }
  return [...regions]
    .filter((region) => region.pixels >= LEAST_PIXELS && region.pixels < width * height && isStraight(region, width))
    .sort((a, b) => b.pixels - a.pixels)
    .slice(0, MOST_REGIONS)
    .map(({ left, right, top, bottom, pixels }) => ({ x: left, y: top, width: right - left + 1, height: bottom - top + 1, pixels }));
}

function addRun(region: Region, start: number, end: number, y: number): void {
  region.left = Math.min(region.left, start);
  region.right = Math.max(region.right, end);
  region.bottom = Math.max(region.bottom, y);
  region.pixels += end - start + 1;
  region.lines++;
  region.starts.set(start, (region.starts.get(start) ?? 0) + 1);
  region.ends.set(end, (region.ends.get(end) ?? 0) + 1);
}

function join(a: Region, b: Region, regions: Set<Region>, runs: readonly Run[]): Region {
  a.left = Math.min(a.left, b.left);
  a.right = Math.max(a.right, b.right);
  a.top = Math.min(a.top, b.top);
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
 * Straight: lines begin at two places at most and end at two at most, over eight lines or more, as
 * a rectangle does or a run of whole lines that begins and ends inside one. Lower ones must be
 * very long.
 */
function isStraight(region: Region, width: number): boolean {
  const height = region.bottom - region.top + 1;
  // A line that is split in two by something that is not zero makes more runs than lines.
  if (region.lines > height + 1 || region.starts.size > 2 || region.ends.size > 2) return false;
  if (height >= 8) return region.right - region.left >= 7;
  return region.pixels >= Math.max(512, width / 4);
}

function runsOfLine(isZero: (i: number) => boolean, y: number, width: number): [number, number][] {
  const runs: [number, number][] = [];
  const row = y * width;
  for (let x = 0; x < width; x++) {
    if (!isZero(row + x)) continue;
    const start = x;
    while (x + 1 < width && isZero(row + x + 1)) x++;
    // Short runs are specks.
    if (x - start >= 7) runs.push([start, x]);
  }
  return runs;
}

/** Tests the first plane first: where it is not zero the others need not be asked. */
function zeroTest(planes: readonly Plane[]): (i: number) => boolean {
  const tests = planes.map(({ data, offset, stride, type }) => {
    // Minus zero is zero.
    const mask = type === 'half' ? 0x7fff : 0xffffffff;
    return type === 'float' ? (i: number) => data[offset + i * stride] === 0 : (i: number) => (data[offset + i * stride] & mask) === 0;
  });
  return (i) => {
    for (const test of tests) if (!test(i)) return false;
    return true;
  };
}
