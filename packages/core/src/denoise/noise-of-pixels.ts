import { findFireflies, gridOf, numbersOf, TILE, type TileGrid } from '../assay/index.ts';
import { boxMean, fitPicture, lightAndNoise } from '../kernels/index.ts';
import { greyOf } from './grey.ts';
import type { PictureToDenoise } from './picture.ts';

/** Darker texture does not make light of it: noise over its albedo would be boundless. */
const LEAST_ALBEDO = 0.05;
/** Pixels around one tell how noise is spread within a tile: penumbrae have more of it than what is beside them. */
const AROUND = 3;
/** What the tile says counts for so much beside them. */
const OF_TILE = 0.25;
/** Noise of tiles passes into each other within so many pixels. */
const SMOOTH = 8;

export interface NoiseOfPixels {
  /** Luminance over the albedo: light without its texture. */
  readonly light: Float32Array;
  /** What it was divided by. */
  readonly texture: Float32Array;
  /** Standard deviation of each pixel's luminance. */
  readonly deviation: Float32Array;
  /** Places of single pixels that stand far above all around them. */
  readonly fireflies: readonly number[];
}

/**
 * Spreads the noise of tiles over their pixels, as what the surfaces do not explain is spread over them.
 *
 * @param sigmas standard deviation of luminance's sampling error, tile by tile; not a number where there is nothing to measure
 */
export function noiseOfPixels(picture: PictureToDenoise, sigmas: Float64Array): NoiseOfPixels {
  const { width, height, luminance, albedo, normal, depth } = picture;
  const grid = gridOf(picture);
  const grey = albedo && greyOf(albedo);
  const mask = measured(picture);
  const { planes } = fitPicture({ width, height, luminance, mask, albedo: grey, normal, depth, sights: [], filter: 'highPass', every: 1, least: 0 }, [
    'squares',
    'target',
  ]);
  const found = numbersOf(planes.squares);
  for (let i = 0; i < found.length; i++) found[i] = found[i]! * mask[i]!;
  const squares = boxMean(found, width, height, AROUND);
  const means = meansOfTiles(squares, grid);
  const variances = sigmas.map((sigma) => (Number.isFinite(sigma) ? sigma * sigma : 0));
  const scales = spread(
    variances.map((variance, tile) => (means[tile]! > 0 ? variance / means[tile]! : 0)),
    grid,
  );
  const tiles = spread(variances, grid);
  return {
    ...lightAndNoise({ luminance, albedo: grey ?? new Float32Array(luminance.length).fill(1), least: LEAST_ALBEDO, squares, scales, tiles, ofTile: OF_TILE }),
    fireflies: findFireflies(luminance, planes.target, mask, grid),
  };
}

/** 1 for pixels that are covered and numbers; never on the outermost ring, where the high-pass does not reach. */
function measured({ width, height, alpha, holes }: PictureToDenoise): Uint8Array {
  const mask = new Uint8Array(width * height);
  for (let y = 1; y < height - 1; y++)
    for (let i = y * width + 1; i < (y + 1) * width - 1; i++) mask[i] = (alpha === null || alpha[i]! > 0) && (holes === null || holes[i] === 0) ? 1 : 0;
  return mask;
}

function meansOfTiles(plane: Float32Array, { width, height, across, down }: TileGrid): Float64Array {
  const [sums, counts] = [new Float64Array(across * down), new Float64Array(across * down)];
  for (let y = 0, i = 0; y < height; y++) {
    for (let x = 0; x < width; x++, i++) {
      const tile = (y >> 4) * across + (x >> 4);
      sums[tile] = sums[tile]! + plane[i]!;
      counts[tile] = counts[tile]! + 1;
    }
  }
  return sums.map((sum, tile) => sum / counts[tile]!);
}

/** A figure of tiles for each pixel, passing smoothly from one to the next. */
function spread(figures: Float64Array, { width, height, across }: TileGrid): Float32Array {
  const out = new Float32Array(width * height);
  for (let y = 0; y < height; y++)
    for (let column = 0, x = y * width; column < across; column++, x += TILE)
      out.fill(figures[(y >> 4) * across + column]!, x, Math.min(x + TILE, (y + 1) * width));
  return boxMean(out, width, height, SMOOTH);
}
