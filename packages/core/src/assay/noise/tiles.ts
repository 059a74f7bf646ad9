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

/** Calls back with the pixels of a tile that are set, each by its place in the picture. */
export function eachPixel({ width, height, across }: TileGrid, tile: number, mask: Uint8Array, take: (pixel: number) => void): void {
  const [left, top] = [(tile % across) * TILE, Math.floor(tile / across) * TILE];
  for (let y = top; y < Math.min(height, top + TILE); y++) {
    for (let x = left; x < Math.min(width, left + TILE); x++) if (mask[y * width + x] !== 0) take(y * width + x);
  }
}

/** The pixels of each tile that are set. */
export function pixelsByTile(grid: TileGrid, mask: Uint8Array): Int32Array[] {
  return Array.from({ length: grid.across * grid.down }, (_, tile) => {
    const pixels: number[] = [];
    eachPixel(grid, tile, mask, (pixel) => pixels.push(pixel));
    return Int32Array.from(pixels);
  });
}

/** The value below which a share of some values lies; NaN of none. Values that are no numbers do not count. */
export function quantile(values: ArrayLike<number>, share: number): number {
  const sorted = Float64Array.from(Array.from(values).filter(Number.isFinite)).sort();
  return sorted.length === 0 ? NaN : sorted[Math.min(sorted.length - 1, Math.floor(share * sorted.length))]!;
}
