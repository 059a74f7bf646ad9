import { clip, mean } from '../../statistics.ts';
import type { FrameFigures } from './measure-frame.ts';
import { leastWithNoise } from './tiles.ts';

/** Tiles of which the features leave fewer times what the neighbours do tell what noise is like in a picture. */
const TELLING = 1.5;
/** From the first on tiles are believed less, from the second on least. */
const DOUBTFUL = 2;
const UNKNOWN = 4;
/** With fewer of them nothing is learned; with fewer than this, in small pictures, nothing of structure that leaks: too few are like it. */
const ENOUGH = 20;
const MANY = 100;
/** Structure over noise, as variances, from which on features that share the samples may have explained most of it, and do. */
const MUCH_STRUCTURE = 30;
const MOST_STRUCTURE = 100;
/** How much of a tile's own figure is kept, as a power of what it differs by: where structure leaks, and where noise was explained. */
const KEPT_OF_LEAK = 0.15;
const KEPT_OF_EXPLAINED = 0.5;
/** Noise grows with a power of a tile's detail up to this: beyond it detail has leaked into what is learned from. */
const MOST_OF_DETAIL = 0.2;
/** Of the mean luminance, so that black has one. */
const DARKEST = 0.01;

/**
 * What a tile shows of its noise is uncertain where it is full of structure: of a mirror's picture a part leaks into it, and at
 * the rim of a thing before a flat sky features that share the samples explain nearly all of it. How noisy such a tile is,
 * the rest of the picture tells as well: noise goes with brightness and with detail, as powers of them, which are fitted to the
 * tiles that can be told. A tile that cannot is moved towards that, down where structure leaks and up where noise was explained;
 * how far was found on studies whose noise is known.
 *
 * @param variances of the noise of each tile
 * @param witnessed how much more the features leave of each than the neighbours do, as a logarithm
 */
export function towardsLikeTiles(variances: Float64Array, { mean: light, total }: Pick<FrameFigures, 'mean' | 'total'>, witnessed: Float64Array): Float64Array {
  const isTold = (tile: number) => variances[tile]! > 0 && variances[tile]! < Infinity && total[tile]! > 0 && Number.isFinite(witnessed[tile]);
  const least = leastWithNoise(variances);
  const telling = [...variances.keys()].filter((tile) => isTold(tile) && witnessed[tile]! < Math.log(TELLING) && variances[tile]! > least);
  if (telling.length < ENOUGH) return variances;
  const darkest = DARKEST * mean(Array.from(light).filter(Number.isFinite));
  // A lamp is brighter than all that tell, and has none of their noise.
  const brightest = Math.max(...telling.map((tile) => light[tile]!));
  const brightness = light.map((value) => Math.log(Math.min(value, brightest) + darkest));
  const detail = total.map(Math.log);
  const usual = fitted(telling, variances.map(Math.log), brightness, detail);
  return variances.map((variance, tile) => {
    if (!isTold(tile)) return variance;
    const off = Math.log(variance) - usual(tile);
    if (!Number.isFinite(off)) return variance;
    const unknown = between(witnessed[tile]!, DOUBTFUL, UNKNOWN);
    const learned =
      off > 0
        ? (1 - KEPT_OF_LEAK) * (telling.length < MANY ? 0 : unknown)
        : (1 - KEPT_OF_EXPLAINED) * (1 - unknown) * between(Math.log(total[tile]! / variance), MUCH_STRUCTURE, MOST_STRUCTURE);
    return variance * Math.exp(-learned * off);
  });
}

/** Where a logarithm lies between those of two numbers, 0 to 1. */
const between = (log: number, from: number, to: number) => clip((log - Math.log(from)) / Math.log(to / from), 0, 1);

/** Least squares of `wanted` on two figures, over some tiles; the second counts no more than it may. */
function fitted(tiles: readonly number[], wanted: Float64Array, first: Float64Array, second: Float64Array): (tile: number) => number {
  const [middle, firstMiddle, secondMiddle] = [wanted, first, second].map((values) => mean(tiles.map((tile) => values[tile]!))) as [number, number, number];
  let [ff, fs, ss, fw, sw] = [0, 0, 0, 0, 0];
  for (const tile of tiles) {
    const [f, s, w] = [first[tile]! - firstMiddle, second[tile]! - secondMiddle, wanted[tile]! - middle];
    ff += f * f;
    fs += f * s;
    ss += s * s;
    fw += f * w;
    sw += s * w;
  }
  const apart = ff * ss - fs * fs;
  // Where both say the same, or nothing, the first tells it.
  const bySecond = apart > 1e-9 * ff * ss ? clip((sw * ff - fw * fs) / apart, 0, MOST_OF_DETAIL) : 0;
  const byFirst = ff > 0 ? (fw - bySecond * fs) / ff : 0;
  return (tile) => middle + byFirst * (first[tile]! - firstMiddle) + bySecond * (second[tile]! - secondMiddle);
}
