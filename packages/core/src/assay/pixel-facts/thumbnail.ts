import { halfToFloat, type Plane } from '../../formats/index.ts';
import { scaleOf } from './channel-facts.ts';

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
  const [{ width, height }] = planes;
  const picture = placement ?? { left: 0, top: 0, width, height };
  const step = Math.max(1, Math.floor(Math.sqrt((width * height) / ENOUGH_PIXELS)));
  const sums = new Float64Array(CELLS);
  const cellOf = (place: number, size: number, cells: number) => (place >= 0 && place < size ? Math.floor((place * cells) / size) : -1);
  const columns = Int8Array.from({ length: width }, (_, x) => cellOf(x + picture.left, picture.width, THUMBNAIL_ACROSS));
  const pixelsInCell = (picture.width * picture.height) / CELLS / (step * step);
  planes.slice(0, 3).forEach((plane, p, used) => {
    const weight = WEIGHTS[used.length - 1][p];
    const read = reader(plane);
    for (let y = 0; y < height; y += step) {
      const row = cellOf(y + picture.top, picture.height, THUMBNAIL_DOWN);
      if (row < 0) continue;
      for (let x = 0; x < width; x += step) {
        if (columns[x] >= 0) sums[row * THUMBNAIL_ACROSS + columns[x]] += weight * read(plane.offset + (y * width + x) * plane.stride);
      }
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

let halfTable: Float32Array | null = null;

function reader(plane: Plane): (at: number) => number {
  const { data, type } = plane;
  if (type === 'u8' || type === 'u16') {
    const scale = scaleOf(plane);
    return (at) => data[at] * scale;
  }
  if (type === 'half') {
    const table = (halfTable ??= Float32Array.from({ length: 65536 }, (_, bits) => tamed(halfToFloat(bits))));
    return (at) => table[data[at]];
  }
  return (at) => tamed(data[at]);
}

function tamed(value: number): number {
  if (Number.isNaN(value)) return 0;
  return Number.isFinite(value) ? value / (1 + Math.abs(value)) : Math.sign(value);
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
