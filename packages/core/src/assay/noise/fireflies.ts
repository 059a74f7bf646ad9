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
export function findFireflies(luminance: Float32Array, highPassed: Float32Array, tiles: readonly Int32Array[], { width }: TileGrid): number[] {
  const found: number[] = [];
  for (const pixels of tiles) {
    const usual = quantile(
      Array.from(pixels, (pixel) => Math.abs(highPassed[pixel]!)),
      0.5,
    );
    for (const pixel of pixels) {
      if (!(highPassed[pixel]! > RESIDUALS * usual)) continue;
      let around = 0;
      for (const row of [-width, 0, width])
        for (const step of [-1, 0, 1]) if (row !== 0 || step !== 0) around = Math.max(around, luminance[pixel + row + step]!);
      if (luminance[pixel]! - around > Math.max(LEAST, TIMES * around)) found.push(pixel);
    }
  }
  return found;
}
