import { FittedStrips } from './fitted-strips.ts';
import type { FitPlane, LeftOver, PictureFit, PictureToFit } from './picture-to-fit.ts';
import { Strip, TILE } from './strip.ts';

/**
 * Regresses the filtered luminance of every tile of 16 x 16 pixels on filtered features, and on what neighbours in time
 * show of the same surfaces; what is left is noise.
 *
 * @param wanted what is to be told of each pixel
 * @param alone likewise by the features alone, which costs little beside the whole; null where that is not wanted
 */
export function fitPicture<Planes extends FitPlane, Alone extends FitPlane = never>(
  picture: PictureToFit,
  wanted: readonly Planes[],
  alone: readonly Alone[] | null = null,
): PictureFit<Planes, Alone> {
  const { width, height, every } = picture;
  const strips = new FittedStrips(picture);
  const { strip } = strips;
  const { across, down } = strip;
  const figures = () => new Float64Array(across * down);
  const leftOver = <Names extends FitPlane>(names: readonly Names[]): LeftOver<Names> => ({
    variances: figures().fill(NaN),
    planes: Object.fromEntries(names.map((name) => [name, new Float32Array(width * height)])) as Record<Names, Float32Array>,
  });
  const fit: PictureFit<Planes, Alone> = {
    ...leftOver(wanted),
    pixels: figures(),
    means: figures(),
    known: picture.sights.map(figures),
    bySights: figures().fill(NaN),
    within: figures(),
    withinShared: figures(),
    shared: figures(),
    totals: figures(),
    alone: alone && leftOver(alone),
  };
  for (const stretch of strip.stretches) {
    strip.show(stretch);
    for (let row = 0; row < down; row += every) strips.fit(row, fit);
  }
  return fit;
}

/** How far beyond the brightness around a residual is believed: of a surface, and at the rims of things. */
export interface CutLimits {
  readonly inside: number;
  readonly atRims: number;
}

/**
 * Means of a fit's squares over tiles, each cut where its share is beyond a limit: to what it would be there. NaN as a limit
 * cuts nothing.
 *
 * @param pixels that are measured, one entry a tile
 * @returns one entry for each pair of limits
 */
export function cutMeans(
  { squares, shares, rims }: Readonly<Record<'squares' | 'shares' | 'rims', Float32Array>>,
  pixels: Float64Array,
  size: { readonly width: number; readonly height: number },
  limits: readonly CutLimits[],
): Float64Array[] {
  const strip = new Strip<'squares' | 'shares' | 'rims' | 'sums'>(size, (line, tiles) => ({
    squares: TILE * line,
    shares: TILE * line,
    rims: TILE * line,
    sums: tiles * 8,
  }));
  const { at, exports, line, across, down } = strip;
  const means = limits.map(() => new Float64Array(across * down));
  for (let row = 0; row < down; row++) {
    strip.put(squares, at.squares, row * TILE, TILE);
    strip.put(shares, at.shares, row * TILE, TILE);
    strip.put(rims, at.rims, row * TILE, TILE);
    limits.forEach(({ inside, atRims }, i) => {
      exports.cutTiles(at.squares, at.shares, at.rims, line, across, inside, atRims, at.sums);
      strip.takeFigures(means[i]!, at.sums, row);
    });
  }
  return means.map((sums) => sums.map((sum, tile) => sum / pixels[tile]!));
}
