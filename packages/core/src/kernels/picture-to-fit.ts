/**
 * A picture in time beside another: its luminance, and where each of the other's pixels has gone in it, -1 where that is not
 * known. What is hidden there is told by depths and normals, where both pictures have them.
 */
export interface Sight {
  readonly luminance: Float32Array;
  readonly places: Int32Array;
  readonly depth: Float32Array | null;
  readonly normal: readonly Float32Array[] | null;
}

/** What is regressed: planes row by row, all of one size. */
export interface PictureToFit {
  readonly width: number;
  readonly height: number;
  /** Without what is no number. */
  readonly luminance: Float32Array;
  /** 1 for the pixels that are measured; never on the outermost ring. */
  readonly mask: Uint8Array;
  /** Luminance of the surfaces, their normals and distances; null where they are not known. */
  readonly albedo: Float32Array | null;
  readonly normal: readonly Float32Array[] | null;
  readonly depth: Float32Array | null;
  /**
   * None, one or two. Of two, the shifts of the first go with the opposite ones of the second: half the columns, which cost
   * less noise. Where there is structure that the features do not explain each has its own.
   */
  readonly sights: readonly Sight[];
  readonly filter: 'highPass' | 'laplacian';
  /** What the features alone leave of each tile, where that is known already; it tells where neighbours are to be looked at apart. */
  readonly byFeatures?: Float64Array;
  /** Rows of tiles that are measured: each so many. */
  readonly every: number;
  /** Added to the brightness around a pixel, so that black has one. */
  readonly least: number;
}

/** What can be had of each pixel. */
export type FitPlane = 'squares' | 'shares' | 'residuals' | 'target' | 'rims';

/** What regressions leave of a picture. */
export interface LeftOver<Planes extends FitPlane> {
  /** Mean square of each tile's residuals, corrected; NaN where too few pixels are measured. */
  readonly variances: Float64Array;
  /**
   * Squares of the residuals, corrected, NaN in tiles without a variance; their roots as shares of the brightness around,
   * negative where nothing is measured; the residuals; what was regressed; and 1 at the rims of things, 0 elsewhere.
   */
  readonly planes: Readonly<Record<Planes, Float32Array>>;
}

export interface PictureFit<Planes extends FitPlane, Alone extends FitPlane> extends LeftOver<Planes> {
  /** Pixels that are measured, and their mean luminance. */
  readonly pixels: Float64Array;
  readonly means: Float64Array;
  /** For each sight, the share of those that can be seen there with all around them. */
  readonly known: readonly Float64Array[];
  /** Variances by what the sights show alone, without the features; NaN without sights, and in rows of tiles with little noise for their structure. */
  readonly bySights: Float64Array;
  /**
   * Sums of the variance of luminance within pixels: of all, and of those that several things share, as albedo and normals say;
   * and how many these are. Told where rims are asked for and there is either.
   */
  readonly within: Float64Array;
  readonly withinShared: Float64Array;
  readonly shared: Float64Array;
  /** Sums of the squares of what was regressed, before anything is explained of it. */
  readonly totals: Float64Array;
  /** By the features alone, without the sights; null where that was not wanted. */
  readonly alone: LeftOver<Alone> | null;
}

/** Where what is left is written: as a picture wants it. */
export interface LeftOverRoom {
  readonly variances: Float64Array;
  readonly planes: Readonly<Partial<Record<FitPlane, Float32Array>>>;
}
