import type { NoiseBuffers } from './buffers.ts';
import { wholeAround } from '../../kernels/index.ts';
import { alongTiles, quantile, type TileGrid } from './tiles.ts';

/** What each neighbour shows at the very same pixels; one entry a neighbour. */
export interface BesideFigures {
  /** Correlation with the neighbour's residuals at the same pixel: high where seeds are held. NaN beside tiles that were looked at where none is held. */
  readonly held: readonly Float64Array[];
  /** Half the mean square of the high-passed difference at the same place over pixels that stand still, and their share. */
  readonly still: readonly { readonly difference: Float64Array; readonly share: Float64Array }[];
  /** How rough is what goes together with the neighbour's residuals: near 1 where it is noise, more where it is structure. NaN where hardly anything does. */
  readonly sharedRoughness: readonly number[];
}

/** What is known of a frame by itself. */
interface Own {
  readonly grid: TileGrid;
  readonly mask: Uint8Array;
  readonly pixels: Float64Array;
  readonly target: Float32Array;
  readonly residuals: Float32Array;
}

/** Pixels whose vectors are shorter stand still. */
const STILL = 0.02;

/** So many rows of tiles, all over the picture, tell whether seeds are held at all. */
const ENOUGH_ROWS = 8;
/** Below this correlation in a quarter of the tiles seeds are new; the rest need not be looked at. */
const SURELY_NEW = 0.15;

/** @param rougher gives residuals of [0 -1 0; -1 4 -1; 0 -1 0] / sqrt 20 instead of the high-pass, in each so many rows of tiles; asked only where seeds may be held */
export function besideNeighbours<One extends Own>(
  frame: NoiseBuffers,
  own: One,
  neighbours: readonly One[],
  rougher: (one: One, every: number) => Float32Array,
): BesideFigures {
  const every = Math.ceil(own.grid.down / ENOUGH_ROWS);
  const standsStill = new Uint8Array(own.mask.length);
  const looked = toFigures(neighbours.map((other) => besideOne(own, other, standsStill, every)));
  if (!mayBeHeld(looked)) return looked;
  const still = stillPixels(frame);
  const whole = toFigures(neighbours.map((other) => besideOne(own, other, still, 1)));
  const rough = rougher(own, every);
  return { ...whole, sharedRoughness: neighbours.map((other, i) => sharedRoughness(own, other, whole.held[i]!, [rough, rougher(other, every)], every)) };
}

/** Whether seeds may be held from the neighbours to a frame: low correlations in a quarter of the tiles say that they are not. */
export const mayBeHeld = ({ held }: BesideFigures): boolean => held.some((tiles) => quantile(tiles, 0.25) > SURELY_NEW);

function toFigures(each: readonly ReturnType<typeof besideOne>[]): BesideFigures {
  return { held: each.map(({ held }) => held), still: each.map(({ still }) => still), sharedRoughness: each.map(() => NaN) };
}

/** Tiles tell how rough it is where residuals go together by more than this; */
const SHARED = 0.3;
/** nearly the least of them counts: some tile or other holds hardly any structure. */
const LEAST_STRUCTURE = 0.05;

/** Structure that stands still, or goes on by less than a pixel, looks like held noise; but it is smoother, where noise is as rough as can be. */
function sharedRoughness(
  { grid, mask, residuals, pixels }: Own,
  other: Own,
  held: Float64Array,
  [own, theirs]: readonly [Float32Array, Float32Array],
  every: number,
) {
  const [rough, usual] = [new Float64Array(pixels.length), new Float64Array(pixels.length)];
  alongTiles(
    grid,
    (tile, first, end) => {
      if (!(held[tile]! > SHARED)) return;
      for (let i = first; i < end; i++) {
        if (mask[i] === 0 || other.mask[i] === 0) continue;
        rough[tile]! += own[i]! * theirs[i]!;
        usual[tile]! += residuals[i]! * other.residuals[i]!;
      }
    },
    every,
  );
  return quantile(
    rough.map((sum, tile) => sum / usual[tile]!),
    LEAST_STRUCTURE,
  );
}

function besideOne({ grid, mask, pixels, target, residuals }: Own, other: Own, standsStill: Uint8Array, every: number) {
  const sumsOfTiles = () => new Float64Array(pixels.length);
  const [own, theirs, both, still, differences] = [sumsOfTiles(), sumsOfTiles(), sumsOfTiles(), sumsOfTiles(), sumsOfTiles()] as const;
  alongTiles(
    grid,
    (tile, first, end) => {
      let [aa, bb, ab, count, difference] = [0, 0, 0, 0, 0];
      for (let i = first; i < end; i++) {
        if (mask[i] === 0 || other.mask[i] === 0) continue;
        const a = residuals[i]!;
        const b = other.residuals[i]!;
        aa += a * a;
        bb += b * b;
        ab += a * b;
        if (standsStill[i] === 0) continue;
        const change = target[i]! - other.target[i]!;
        count++;
        difference += (change * change) / 2;
      }
      own[tile]! += aa;
      theirs[tile]! += bb;
      both[tile]! += ab;
      still[tile]! += count;
      differences[tile]! += difference;
    },
    every,
  );
  return {
    held: both.map((sum, tile) => (own[tile]! > 0 && theirs[tile]! > 0 ? sum / Math.sqrt(own[tile]! * theirs[tile]!) : NaN)),
    still: {
      difference: differences.map((sum, tile) => (still[tile] === 0 ? NaN : sum / still[tile]!)),
      share: still.map((count, tile) => (pixels[tile] === 0 ? 0 : count / pixels[tile]!)),
    },
  };
}

/** 1 where nothing around moves. */
function stillPixels({ motion, width, height }: NoiseBuffers): Uint8Array {
  const still = new Uint8Array(width * height);
  if (!motion) return still;
  const [across, down] = motion;
  let count = 0;
  for (let i = 0; i < still.length; i++) {
    if (Math.abs(across[i]!) + Math.abs(down[i]!) >= STILL) continue;
    still[i] = 1;
    count++;
  }
  return count === 0 ? still : wholeAround(still, width, height);
}
