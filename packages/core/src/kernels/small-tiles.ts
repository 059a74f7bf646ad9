import { GRAM_ROW, MATRIX, REACH, type FittedPart } from './strip-layout.ts';
import type { Strip } from './strip.ts';

/** Tiles of fewer pixels are fitted together with one beside them, or, in the last lines of a picture, above them. */
const FEW_PIXELS = 64;

/** A tile's sums, and of how many pixels they are. */
interface Sums {
  readonly grams: Float64Array;
  readonly pixels: number;
}

/**
 * Tiles of few pixels, at the edges of a picture and of what its alpha covers: columns that have noise would explain most of
 * them. Their coefficients are those of more pixels; what these leave is told of their own.
 */
export class SmallTiles {
  private readonly strip: Strip<FittedPart>;
  /** The last row of tiles but one. */
  private above: readonly Sums[] = [];

  constructor(strip: Strip<FittedPart>) {
    this.strip = strip;
  }

  /** Adds to the sums of a row's small tiles those of the largest beside. @param count of the columns that are summed up, beside what they explain */
  join(row: number, count: number): void {
    const { at, bytes, tiles, down, exports, line } = this.strip;
    exports.countTiles(at.mask + REACH * line, line, tiles, at.sums);
    const pixels = new Float64Array(bytes.buffer, at.sums, tiles);
    const joined = new Float64Array(bytes.buffer, at.joined, tiles).fill(0);
    const sumsOf = (tile: number): Sums => ({
      grams: new Float64Array(bytes.buffer, at.grams + tile * MATRIX, ((count + 1) * GRAM_ROW) / 8),
      pixels: pixels[tile]!,
    });
    for (let tile = 0; tile < tiles; tile++) {
      if (pixels[tile] === 0 || pixels[tile]! >= FEW_PIXELS) continue;
      const beside = [tile - 1, tile + 1].filter((other) => other >= 0 && other < tiles).map(sumsOf);
      const above = row === down - 1 ? this.above[tile] : undefined;
      const [largest] = [...beside, ...(above ? [above] : [])].sort((a, b) => b.pixels - a.pixels);
      // Small ones may have others' sums among theirs already.
      if (!largest || largest.pixels < FEW_PIXELS) continue;
      joined[tile] = largest.pixels;
      const { grams } = sumsOf(tile);
      largest.grams.forEach((sum, i) => (grams[i]! += sum));
    }
    if (row === down - 2) this.above = Array.from(pixels, (_, tile) => ({ ...sumsOf(tile), grams: sumsOf(tile).grams.slice() }));
  }
}
