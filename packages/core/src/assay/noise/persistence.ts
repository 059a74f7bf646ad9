import { TILE } from '../pair-noise.ts';
import type { Prepared } from './prepared-frame.ts';
import type { Places } from './warp.ts';

/** How far away in the neighbour, in pixels each way, a tile is looked for: around itself, and around where vectors lead it. */
const REACH = 6;
const SIDE = TILE + 2 * REACH;
/** Starts nearer to each other look at nearly the same. */
const SAME_START = 3;

/** The picture beside a tile that it is looked for in. */
interface Start {
  readonly top: number;
  readonly left: number;
}

/**
 * How well what the features leave of a tile is found again in a neighbour, wherever it has gone by a few pixels: the best
 * correlation, about .3 where it is noise, which is new in each frame, and more where it is structure, be it the picture in a
 * mirror, which moves otherwise than the vectors say.
 *
 * @param places of the frame's pixels in the neighbour
 * @param isAsked which tiles
 * @returns one entry a tile; NaN where it was not asked, or there is nothing
 */
export function persistenceOf(own: Prepared, other: Prepared, places: Places, isAsked: (tile: number) => boolean): Float64Array {
  const { width, height, across } = own.grid;
  const search = new TileSearch(width, height);
  return own.variances.map((_, tile) => {
    if (!isAsked(tile)) return NaN;
    const [top, left] = [Math.floor(tile / across) * TILE, (tile % across) * TILE];
    const middle = Math.min(height - 1, top + TILE / 2) * width + Math.min(width - 1, left + TILE / 2);
    const starts: Start[] = [{ top, left }];
    const at = places[middle]!;
    if (at >= 0) {
      const led = { top: top + Math.floor(at / width) - Math.floor(middle / width), left: left + (at % width) - (middle % width) };
      if (Math.max(Math.abs(led.top - top), Math.abs(led.left - left)) >= SAME_START) starts.push(led);
    }
    return search.best(own.residuals, { top, left }, other.residuals, starts);
  });
}

/** Looks for a tile of one plane in another. */
class TileSearch {
  private readonly tile = new Float64Array(TILE * TILE);
  /** What is looked through, with zeros beyond the picture, and sums of its squares from its corner on. */
  private readonly around = new Float64Array(SIDE * SIDE);
  private readonly squares = new Float64Array((SIDE + 1) * (SIDE + 1));

  constructor(
    private readonly width: number,
    private readonly height: number,
  ) {}

  best(plane: Float32Array, from: Start, other: Float32Array, starts: readonly Start[]): number {
    this.take(plane, from, TILE, this.tile);
    const own = this.tile.reduce((sum, value) => sum + value * value, 0);
    return own > 0 ? Math.max(...starts.map((start) => this.bestAround(own, other, start))) : NaN;
  }

  private bestAround(own: number, other: Float32Array, { top, left }: Start): number {
    const { tile, around, squares } = this;
    this.take(other, { top: top - REACH, left: left - REACH }, SIDE, around);
    for (let y = 0; y < SIDE; y++) {
      let line = 0;
      for (let x = 0; x < SIDE; x++) {
        line += around[y * SIDE + x]! ** 2;
        squares[(y + 1) * (SIDE + 1) + x + 1] = squares[y * (SIDE + 1) + x + 1]! + line;
      }
    }
    let best = 0;
    for (let dy = 0; dy <= 2 * REACH; dy++) {
      for (let dx = 0; dx <= 2 * REACH; dx++) {
        const [first, last] = [dy * (SIDE + 1) + dx, (dy + TILE) * (SIDE + 1) + dx];
        const theirs = squares[last + TILE]! - squares[last]! - squares[first + TILE]! + squares[first]!;
        if (!(theirs > 0)) continue;
        let both = 0;
        for (let y = 0; y < TILE; y++) {
          const at = (dy + y) * SIDE + dx;
          for (let x = 0; x < TILE; x++) both += tile[y * TILE + x]! * around[at + x]!;
        }
        best = Math.max(best, both / Math.sqrt(own * theirs));
      }
    }
    return best;
  }

  /** Copies a square of a plane. */
  private take(plane: Float32Array, { top, left }: Start, side: number, out: Float64Array): void {
    out.fill(0);
    for (let y = Math.max(0, -top); y < Math.min(side, this.height - top); y++) {
      for (let x = Math.max(0, -left); x < Math.min(side, this.width - left); x++) out[y * side + x] = plane[(top + y) * this.width + left + x]!;
    }
  }
}
