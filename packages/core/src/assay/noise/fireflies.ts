import { TILE } from '../pair-noise.ts';
import { quantile, type TileGrid } from './tiles.ts';

/** A firefly stands above its neighbours by so many times the tile's usual residual, */
const RESIDUALS = 25;
/** by so many times what they are themselves, */
const TIMES = 4;
/** and by this much light: less is not seen. */
const LEAST = 0.5;

/**
 * Single pixels far brighter than all eight around them, and than the noise of their tile: what a path that rarely finds
 * a light leaves behind. Two beside each other are structure, or a glint.
 *
 * @returns their places
 */
export function findFireflies(luminance: Float32Array, highPassed: Float32Array, mask: Uint8Array, grid: TileGrid): number[] {
  const { width, height, across } = grid;
  const found: number[] = [];
  const usual = new Map<number, number>();
  // One neighbour rules out nearly all of them; of the few others it is worth asking what is usual around them.
  for (let pixel = width + 1; pixel < width * (height - 1) - 1; pixel++) {
    if (!(luminance[pixel]! - luminance[pixel - 1]! > LEAST) || mask[pixel] === 0 || !(highPassed[pixel]! > 0) || !standsOut(luminance, pixel, width)) continue;
    const row = Math.floor(pixel / width);
    const tile = Math.floor(row / TILE) * across + Math.floor((pixel - row * width) / TILE);
    if (!usual.has(tile)) usual.set(tile, usualIn(tile, highPassed, mask, grid));
    if (highPassed[pixel]! > RESIDUALS * usual.get(tile)!) found.push(pixel);
  }
  return found;
}

/** Whether a pixel is far brighter than each of those around it. */
function standsOut(luminance: Float32Array, pixel: number, width: number): boolean {
  const own = luminance[pixel]!;
  let around = 0;
  for (let row = pixel - width; row <= pixel + width; row += width)
    for (let i = row - 1; i <= row + 1; i++) if (i !== pixel && luminance[i]! > around) around = luminance[i]!;
  return own - around > Math.max(LEAST, TIMES * around);
}

/** The median size of a tile's high-passed pixels. */
function usualIn(tile: number, highPassed: Float32Array, mask: Uint8Array, { width, height, across }: TileGrid): number {
  const [left, top] = [(tile % across) * TILE, Math.floor(tile / across) * TILE];
  const sizes: number[] = [];
  for (let y = top; y < Math.min(height, top + TILE); y++)
    for (let i = y * width + left; i < y * width + Math.min(width, left + TILE); i++) if (mask[i] !== 0) sizes.push(Math.abs(highPassed[i]!));
  return quantile(sizes, 0.5);
}
