import { TILE } from '../pair-noise.ts';
import { alongTiles, quantile, type TileGrid } from './tiles.ts';
import { unlessTexture } from './wide-filter.ts';

/** What a frame and one beside it show at the very same pixels, tile by tile; NaN where too few can be compared. */
export interface StandingFigures {
  /** Half the mean square of the high-passed difference: the noise's variance where nothing moves. */
  readonly variances: Float64Array;
  /** The same of the means of small blocks, over what noise alone would make of it: near 1 where nothing moves, and infinite where fine structure is seen to. */
  readonly unrest: Float64Array;
  /** Variance of the difference after [0 -1 0; -1 4 -1; 0 -1 0] / sqrt 20, over that after the high-pass: how rough the noise is. */
  readonly roughness: Float64Array;
}

/** What is known of a frame by itself. */
interface Own {
  readonly grid: TileGrid;
  readonly mask: Uint8Array;
  readonly luminance: Float32Array;
  readonly target: Float32Array;
}

/** Blocks along a tile's side, in pixels; noise is small in their means, and what moves is not. */
const BLOCK = 4;
const BLOCKS = 16;
/** A tile with fewer pixels that can be compared says nothing. */
const FEWEST_PIXELS = 64;
/** Tiles of more unrest move. Of white noise over 16 blocks one in a thousand has more. */
const MOST_UNREST = 2.2;

/** Compares two frames pixel by pixel, without vectors. */
export function standingFigures({ grid, mask, luminance, target }: Own, other: Own): StandingFigures {
  const count = grid.across * grid.down;
  const [sums, sizes] = [new Float64Array(count * BLOCKS), new Float64Array(count * BLOCKS)];
  const [squares, rough, pixels] = [new Float64Array(count), new Float64Array(count), new Float64Array(count)];
  const change = luminance.map((value, i) => value - other.luminance[i]!);
  alongTiles(grid, (tile, first, end) => {
    const row = (Math.floor(Math.floor(first / grid.width) / BLOCK) % BLOCK) * BLOCK + tile * BLOCKS;
    for (let i = first; i < end; i++) {
      if (mask[i] === 0 || other.mask[i] === 0) continue;
      const block = row + ((i - first) >> 2);
      sums[block]! += change[i]!;
      sizes[block]!++;
      squares[tile]! += (target[i]! - other.target[i]!) ** 2 / 2;
      rough[tile]! += (4 * change[i]! - change[i - 1]! - change[i + 1]! - change[i - grid.width]! - change[i + grid.width]!) ** 2 / 40;
      pixels[tile]!++;
    }
  });
  const variances = squares.map((sum, tile) => (pixels[tile]! < FEWEST_PIXELS ? NaN : sum / pixels[tile]!));
  const unrest = variances.map((variance, tile) => {
    let [sum, blocks] = [0, 0];
    for (let block = tile * BLOCKS; block < (tile + 1) * BLOCKS; block++) {
      if (sizes[block] === 0) continue;
      sum += sums[block]! ** 2 / sizes[block]!;
      blocks++;
    }
    // Where both frames are the same to the last digit nothing moves.
    const coarse = variance === 0 && sum === 0 ? 0 : sum / (2 * blocks * variance);
    // Fine structure that moves is as uneven as noise; but it is found again some pixels on.
    return coarse > 0 && coarse < LOOKED_AT && isFoundBeside(tile, grid, target, other.target) ? Infinity : coarse;
  });
  return { variances, unrest, roughness: rough.map((sum, tile) => sum / squares[tile]!) };
}

/** Tiles of more unrest move anyway, whatever the filter. */
const LOOKED_AT = 10;
/** So far things are looked for, in pixels; */
const REACH = 6;
/** they are found where both pictures go together by this. Noise of 128 pixels does so by less at all of the 168 places. */
const FOUND = 0.4;

/** Whether a tile's high-passed picture is found in the other frame at another place than its own. */
function isFoundBeside(tile: number, { width, height, across }: TileGrid, own: Float32Array, other: Float32Array): boolean {
  const [left, top] = [(tile % across) * TILE, Math.floor(tile / across) * TILE];
  for (let down = -REACH; down <= REACH; down++) {
    const [first, end] = [Math.max(top, -down), Math.min(top + TILE, height, height - down)];
    for (let right = -REACH; right <= REACH; right++) {
      if (down === 0 && right === 0) continue;
      const [from, to] = [Math.max(left, -right), Math.min(left + TILE, width, width - right)];
      let [aa, bb, ab, count] = [0, 0, 0, 0];
      for (let y = first; y < end; y++) {
        // Every other pixel is enough.
        for (let x = from + ((from + y) & 1); x < to; x += 2) {
          const i = y * width + x;
          const [a, b] = [own[i]!, other[i + down * width + right]!];
          aa += a * a;
          bb += b * b;
          ab += a * b;
          count++;
        }
      }
      if (count >= FEWEST_PIXELS && ab > FOUND * Math.sqrt(aa * bb)) return true;
    }
  }
  return false;
}

/** How rough the noise is where nothing moves, a low quantile over the tiles; NaN where everything does. */
export function roughnessOfStanding({ unrest, roughness }: StandingFigures): number {
  const standing = roughness.filter((_, tile) => unrest[tile]! < LOOKED_AT);
  return unlessTexture(quantile(standing, 0.2));
}

/**
 * The noise in time over the tiles that stand still; null where none does.
 *
 * @param widening what a wide pixel filter takes from high-passed variances, as a factor
 */
export function noiseOfStanding({ variances, unrest }: StandingFigures, widening: number): number | null {
  const still = variances.filter((_, tile) => unrest[tile]! < MOST_UNREST * widening);
  return still.length === 0 ? null : Math.sqrt((still.reduce((sum, value) => sum + value, 0) / still.length) * widening);
}
