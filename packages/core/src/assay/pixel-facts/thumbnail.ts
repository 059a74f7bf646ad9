import { halfToFloat, type Plane } from '../../formats/index.ts';
import { scaleOf } from './channel-facts.ts';

/** Cells of a thumbnail. Few enough that noise averages out, enough to see something move. */
export const THUMBNAIL_ACROSS = 12;
export const THUMBNAIL_DOWN = 8;
const CELLS = THUMBNAIL_ACROSS * THUMBNAIL_DOWN;

/** Of larger pictures only every n-th line and column is looked at. */
const ENOUGH_PIXELS = 300_000;

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
  const bytes = atob(text);
  if (bytes.length !== CELLS * 2) return null;
  return Float32Array.from({ length: CELLS }, (_, i) => ((bytes.charCodeAt(2 * i) << 8) | bytes.charCodeAt(2 * i + 1)) / 32767.5 - 1);
}

/** Root mean square of the differences of two thumbnails. */
export function thumbnailDistance(a: Float32Array, b: Float32Array): number {
  let sum = 0;
  for (let i = 0; i < a.length; i++) sum += (a[i] - b[i]) ** 2;
  return Math.sqrt(sum / a.length);
}
