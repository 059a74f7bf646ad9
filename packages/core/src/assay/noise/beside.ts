import type { NoiseBuffers } from './buffers.ts';
import { whole3x3 } from './filters.ts';
import { alongTiles, type TileGrid } from './tiles.ts';
import type { Places } from './warp.ts';

/** What each neighbour shows at the very same pixels, and how much of each tile it shows at all; one entry a neighbour. */
export interface BesideFigures {
  /** Correlation with the neighbour's residuals at the same pixel: high where seeds are held. */
  readonly held: readonly Float64Array[];
  /** Share of pixels whose place in the neighbour is known. */
  readonly known: readonly Float64Array[];
  /** Half the mean square of the high-passed difference at the same place over pixels that stand still, and their share. */
  readonly still: readonly { readonly difference: Float64Array; readonly share: Float64Array }[];
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

export function besideNeighbours(frame: NoiseBuffers, own: Own, neighbours: readonly (Own & { readonly places: Places })[]): BesideFigures {
  const standsStill = stillPixels(frame);
  const each = neighbours.map((other) => besideOne(own, other, standsStill));
  return { held: each.map(({ held }) => held), known: each.map(({ known }) => known), still: each.map(({ still }) => still) };
}

function besideOne({ grid, mask, pixels, target, residuals }: Own, other: Own & { readonly places: Places }, standsStill: Uint8Array) {
  const sumsOfTiles = () => new Float64Array(pixels.length);
  const [own, theirs, both, known, still, differences] = Array.from({ length: 6 }, sumsOfTiles) as [
    Float64Array,
    Float64Array,
    Float64Array,
    Float64Array,
    Float64Array,
    Float64Array,
  ];
  alongTiles(grid, (tile, first, end) => {
    let [aa, bb, ab, placed, count, difference] = [0, 0, 0, 0, 0, 0];
    for (let i = first; i < end; i++) {
      if (mask[i] === 0) continue;
      if (other.places[i]! >= 0) placed++;
      if (other.mask[i] === 0) continue;
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
    known[tile]! += placed;
    still[tile]! += count;
    differences[tile]! += difference;
  });
  const share = (sums: Float64Array) => sums.map((sum, tile) => (pixels[tile] === 0 ? 0 : sum / pixels[tile]!));
  return {
    held: both.map((sum, tile) => (own[tile]! > 0 && theirs[tile]! > 0 ? sum / Math.sqrt(own[tile]! * theirs[tile]!) : NaN)),
    known: share(known),
    still: { difference: differences.map((sum, tile) => (still[tile] === 0 ? NaN : sum / still[tile]!)), share: share(still) },
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
  return count === 0 ? still : whole3x3(still, width, height);
}
