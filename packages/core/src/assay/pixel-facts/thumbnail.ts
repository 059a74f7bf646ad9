import type { Plane } from '../../formats/index.ts';
import { tame, tamedTable } from './values.ts';

/** Cells of a thumbnail. Few enough that noise averages out, enough to see something move. */
export const THUMBNAIL_ACROSS = 12;
export const THUMBNAIL_DOWN = 8;
const CELLS = THUMBNAIL_ACROSS * THUMBNAIL_DOWN;

/** Of larger pictures only every n-th line and column is looked at. */
const ENOUGH_PIXELS = 100_000;

/** Three channels are mixed with different weights, so that none can change unseen behind another. */
const WEIGHTS = [[1], [0.6, 0.4], [0.3, 0.5, 0.2]] as const;

/** Where planes lie in the picture that a thumbnail shows. */
export interface Placement {
  readonly left: number;
  readonly top: number;
  readonly width: number;
  readonly height: number;
}

/**
 * A very small picture of a layer as text: the mean of each cell, floats brought to -1..1 by
 * v / (1 + |v|) so that one bright pixel does not rule its cell. What lies outside the planes is
 * zero.
 *
 * @param planes one to three planes of one size
 * @param placement the planes' corner in the picture, and the picture's size; null where they are the picture
 */
export function makeThumbnail(planes: readonly Plane[], placement: Placement | null = null): string {
  const { width, height } = planes[0]!;
  const picture = placement ?? { left: 0, top: 0, width, height };
  const step = Math.max(1, Math.floor(Math.sqrt((width * height) / ENOUGH_PIXELS)));
  const sums = new Float64Array(CELLS);
  const cellOf = (place: number, size: number, cells: number) => (place >= 0 && place < size ? Math.floor((place * cells) / size) : -1);
  const stretches = stretchesOfCells(width, step, (x) => cellOf(x + picture.left, picture.width, THUMBNAIL_ACROSS));
  const pixelsInCell = (picture.width * picture.height) / CELLS / (step * step);
  planes.slice(0, 3).forEach((plane, p, used) => {
    const weight = WEIGHTS[used.length - 1]![p];
    for (let y = 0; y < height; y += step) {
      const row = cellOf(y + picture.top, picture.height, THUMBNAIL_DOWN);
      if (row >= 0) addLine(plane, y, step, stretches, weight, sums, row * THUMBNAIL_ACROSS);
    }
  });
  const bytes = new Uint8Array(CELLS * 2);
  for (let cell = 0; cell < CELLS; cell++) {
    const mean = sums[cell] / pixelsInCell;
    const code = Math.round((Math.min(1, Math.max(-1, mean)) + 1) * 32767.5);
    bytes[2 * cell] = code >> 8;
    bytes[2 * cell + 1] = code & 255;
  }
  return btoa(String.fromCharCode(...bytes));
}

/** Neighbouring columns of one cell: every `step`-th from `from`, `count` of them. */
interface Stretch {
  readonly cell: number;
  readonly from: number;
  count: number;
}

function stretchesOfCells(width: number, step: number, cellOf: (x: number) => number): Stretch[] {
  const stretches: Stretch[] = [];
  for (let x = 0; x < width; x += step) {
    const cell = cellOf(x);
    const last = stretches.at(-1);
    if (last?.cell === cell) last.count++;
    else stretches.push({ cell, from: x, count: 1 });
  }
  return stretches.filter(({ cell }) => cell >= 0);
}

/** Adds values of a line to the cells that its columns belong to. */
function addLine(
  { data, type, width, offset, stride }: Plane,
  y: number,
  step: number,
  stretches: Stretch[],
  weight: number,
  sums: Float64Array,
  row: number,
): void {
  const table = tamedTable(type);
  for (const { cell, from, count } of stretches) {
    let at = offset + (y * width + from) * stride;
    let sum = 0;
    for (let i = 0; i < count; i++, at += step * stride) sum += table ? table[data[at]] : tame(data[at]);
    sums[row + cell] += weight * sum;
  }
}

/** Reads a thumbnail's cells back, -1..1; null for a text that is none. */
export function readThumbnail(text: string): Float32Array | null {
  // Read by hand: a count reads one for each of its frames. Four letters hold three bytes, and no
  // thumbnail's length leaves a rest.
  if (text.length !== (CELLS * 2 * 4) / 3) return null;
  const bytes = new Uint8Array(CELLS * 2);
  for (let from = 0, to = 0; from < text.length; from += 4, to += 3) {
    const bits =
      (VALUES[text.charCodeAt(from)] << 18) |
      (VALUES[text.charCodeAt(from + 1)] << 12) |
      (VALUES[text.charCodeAt(from + 2)] << 6) |
      VALUES[text.charCodeAt(from + 3)];
    bytes[to] = bits >> 16;
    bytes[to + 1] = bits >> 8;
    bytes[to + 2] = bits;
  }
  const cells = new Float32Array(CELLS);
  for (let i = 0; i < CELLS; i++) cells[i] = ((bytes[2 * i] << 8) | bytes[2 * i + 1]) / 32767.5 - 1;
  return cells;
}

/** Base64's letters (RFC 4648) by their code; what is none counts as zero. */
const VALUES = new Uint8Array(65536);
[...'ABCDEFGHIJKLMNOPQRSTUVWXYZabcdefghijklmnopqrstuvwxyz0123456789+/'].forEach((letter, value) => (VALUES[letter.charCodeAt(0)] = value));

/** Root mean square of the differences of two thumbnails. */
export function thumbnailDistance(a: Float32Array, b: Float32Array): number {
  let sum = 0;
  for (let i = 0; i < a.length; i++) {
    const difference = a[i] - b[i];
    sum += difference * difference;
  }
  return Math.sqrt(sum / a.length);
}
