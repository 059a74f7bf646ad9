import { TILE } from '../pair-noise.ts';

/** The 16 x 16 tiles of a picture, row by row; those at its right and lower edge are cut. */
export interface TileGrid {
  readonly width: number;
  readonly height: number;
  readonly across: number;
  readonly down: number;
}

export function gridOf({ width, height }: { readonly width: number; readonly height: number }): TileGrid {
  return { width, height, across: Math.ceil(width / TILE), down: Math.ceil(height / TILE) };
}

/** The pixels of each tile that are set, by their places in the picture. */
export function pixelsByTile({ width, height, across, down }: TileGrid, mask: Uint8Array): Int32Array[] {
  const found = new Int32Array(TILE * TILE);
  return Array.from({ length: across * down }, (_, tile) => {
    const [left, top] = [(tile % across) * TILE, Math.floor(tile / across) * TILE];
    const [right, bottom] = [Math.min(width, left + TILE), Math.min(height, top + TILE)];
    let count = 0;
    for (let y = top; y < bottom; y++) for (let i = y * width + left; i < y * width + right; i++) if (mask[i] !== 0) found[count++] = i;
    return found.slice(0, count);
  });
}

/** The value below which a share of some values lies; NaN of none. Values that are no numbers do not count. */
export function quantile(values: ArrayLike<number>, share: number): number {
  const sorted = new Float64Array(values.length);
  let count = 0;
  for (let i = 0; i < values.length; i++) if (Number.isFinite(values[i])) sorted[count++] = values[i]!;
  return count === 0 ? NaN : sorted.subarray(0, count).sort()[Math.min(count - 1, Math.floor(share * count))]!;
}
