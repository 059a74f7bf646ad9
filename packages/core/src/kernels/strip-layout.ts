import type { PictureToFit } from './picture-to-fit.ts';
import { Strip, TILE } from './strip.ts';

/** Where nothing is met, depths are larger than this. */
export const FARTHEST = 1e9;
/** Depth may differ by this share before a point counts as another one. */
export const SAME_DEPTH = 0.05;
/** Lines of a strip that filters reach above its tiles, and those that are needed of what is not filtered yet. */
export const REACH = 2;
export const FILTERED = TILE + 2 * REACH;
export const RAW = FILTERED + 2;
/** Means of 5 x 5 pixels need so many lines more. */
export const AROUND = 2;
export const WIDEST = RAW + 2 * AROUND;
/** Centre, left, right, above, below. */
export const SHIFTS = 5;
/** Columns of what the shifts of two neighbours show apart from each other; they come before all others. */
export const apartOf = ({ sights }: PictureToFit): number => (sights.length === 2 ? SHIFTS - 1 : 0);
/** Bytes of a line of a tile; of a tile's column, which has all lines that are filtered; and of one that is spread. */
export const TILE_LINE = TILE * 4;
export const COLUMN = FILTERED * TILE_LINE;
export const SPREAD_COLUMN = TILE * TILE_LINE;
/** Columns that a tile has room for: those of a fit and what they explain, with zeros, since four are summed up together; and those that are spread. */
export const slotsOf = (count: number) => (count + 4) & ~3;
export const spreadSlotsOf = (count: number) => count;
/** So many tiles of a row are fitted at a time, with one to either side. */
const MOST_TILES = 20;
/** Of a tile's sums, in bytes: 32 x 32 64-bit floats. */
export const GRAM_ROW = 32 * 8;
export const MATRIX = 32 * GRAM_ROW;

/** What a strip holds while a picture is fitted. */
export type FittedPart =
  | 'edge'
  | 'light'
  | 'raw'
  | 'normals'
  | 'depths'
  | 'lit'
  | 'ofSurface'
  | 'maskBytes'
  | 'mask'
  | 'places'
  | 'either'
  | 'known'
  | 'knownInEither'
  | 'brought'
  | 'columns'
  | 'target'
  | 'spread'
  | 'knownOf'
  | 'scratch'
  | 'room'
  | 'grams'
  | 'squares'
  | 'residuals'
  | 'shares'
  | 'edgeRoom'
  | 'edges'
  | 'rims'
  | 'oneSurface'
  | 'variances'
  | 'counts'
  | 'joined'
  | 'weights'
  | 'apartSquares'
  | 'apartResiduals'
  | 'apartVariances'
  | 'sums'
  | 'luminances'
  | 'otherNormals'
  | 'otherDepths';

/** Room for a stretch of a row of tiles and what filters reach around it, and for all of what the sights show. @param count columns of a fit */
export function stripToFit(picture: PictureToFit, count: number): Strip<FittedPart> {
  const { width, height, normal, depth, sights } = picture;
  const sizes = (line: number, tiles: number): Record<FittedPart, number> => ({
    // Zeros before the first line, which stand for what lies beside it.
    edge: line,
    light: WIDEST * line,
    raw: WIDEST * line,
    normals: 3 * WIDEST * line,
    depths: WIDEST * line,
    lit: RAW * line,
    ofSurface: RAW * line,
    maskBytes: (FILTERED * line) / 4,
    mask: FILTERED * line,
    places: sights.length * RAW * line,
    either: RAW * line,
    known: sights.length * FILTERED * line,
    knownInEither: FILTERED * line,
    brought: SHIFTS * RAW * line,
    columns: tiles * slotsOf(count) * COLUMN,
    target: TILE * line,
    spread: sights.length === 0 ? 0 : tiles * spreadSlotsOf(count) * SPREAD_COLUMN,
    knownOf: count * 8,
    scratch: 8 * (line + 32),
    room: 3 * MATRIX,
    grams: tiles * MATRIX,
    squares: TILE * line,
    residuals: TILE * line,
    shares: TILE * line,
    // Zeros before the first line.
    edgeRoom: line,
    edges: (TILE + 3) * line,
    rims: TILE * line,
    // For blocks of 16 pixels and 11 lines.
    oneSurface: Math.ceil(RAW / 11) * Math.ceil(line / 64) * 4,
    variances: tiles * 8,
    counts: tiles * 8,
    joined: tiles * 8,
    weights: tiles * 8,
    apartSquares: sights.length < 2 ? 0 : TILE * line,
    apartResiduals: sights.length < 2 ? 0 : TILE * line,
    apartVariances: tiles * 8,
    sums: tiles * 8,
    luminances: sights.length * width * height * 4,
    otherNormals: normal ? sights.length * 3 * width * height * 4 : 0,
    otherDepths: depth ? sights.length * width * height * 4 : 0,
  });
  // What the sights show is copied in as a whole.
  return new Strip<FittedPart>(picture, sizes, { filled: 3, most: MOST_TILES });
}
