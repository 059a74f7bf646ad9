import type { FitPlane, LeftOverRoom, PictureFit, PictureToFit } from './picture-to-fit.ts';
import {
  apartOf,
  AROUND,
  COLUMN,
  FARTHEST,
  FILTERED,
  GRAM_ROW,
  MATRIX,
  RAW,
  REACH,
  SAME_DEPTH,
  SHIFTS,
  SPREAD_COLUMN,
  stripToFit,
  WIDEST,
  type FittedPart,
} from './strip-layout.ts';
import { SmallTiles } from './small-tiles.ts';
import { StripSights } from './strip-sights.ts';
import { TILE, type Strip } from './strip.ts';
import { TileColumns } from './tile-columns.ts';

/** At the rim of a thing nearness bends by this share of itself, or normals differ by this squared distance. */
const RIM_BENDS = 0.02;
const RIM_NORMALS = 0.5;
/** Pixels of one surface: their normals' squared distance. */
const ONE_SURFACE = 0.1;
/** Rows with less noise for their structure, as variances, are not fitted by the sights alone. */
const LEAST_NOISE = 0.1;
/**
 * In pictures of so many pixels what a pixel weighs in its own fit is asked of some lines only, which tell it for their tile;
 * and edges are so small a part of them that light from one side on texture needs no columns.
 */
const MANY_PIXELS = 300_000;
const ASKED_OF_MANY = 5;

/**
 * Where the features alone leave so many times what the neighbours leave (as variances), there is structure that they do not
 * know, a mirror's picture above all: each neighbour then has columns of its own, from the first on a little, from the second
 * on nothing else. Elsewhere the columns that it takes more would cost more noise than they explain.
 */
const SOME_STRUCTURE = 1.5;
const MUCH_STRUCTURE = 3;

/** Where a fit's figures are written. */
type FitRoom = LeftOverRoom &
  Pick<PictureFit<never, never>, 'pixels' | 'means' | 'known' | 'bySights' | 'totals' | 'within' | 'withinShared' | 'shared'> & {
    readonly alone: LeftOverRoom | null;
  };

/** Fits one row of tiles after the other. */
export class FittedStrips {
  readonly strip: Strip<FittedPart>;
  private readonly picture: PictureToFit;
  private readonly columns: TileColumns;
  private readonly sights: StripSights | null;
  private readonly small: SmallTiles;
  /** Whether texture is known, and what belongs to one surface. */
  private readonly hasSurfaces: boolean;
  private readonly features: number;
  /** Columns of what two sights show apart, which come first and count only where there is structure; and of what the sights show. */
  private readonly apart: number;
  private readonly seen: number;
  /** Of what the sights show and the features; and of all. */
  private readonly count: number;
  private readonly total: number;
  /** What pixels weigh in their own fit is asked of each so many lines. */
  private readonly asked: number;
  /** Whether the light of each side on texture has columns. */
  private readonly hasSides: boolean;

  constructor(picture: PictureToFit) {
    const { width, height, albedo, normal, depth, sights } = picture;
    this.picture = picture;
    this.hasSurfaces = albedo !== null && (normal !== null || depth !== null);
    const isLarge = width * height >= MANY_PIXELS;
    this.hasSides = albedo !== null && !isLarge;
    this.features = (albedo ? 2 : 0) + (this.hasSurfaces ? 1 : 0) + (normal?.length ?? 0) * (this.hasSides ? 2 : 1) + (depth ? 1 : 0);
    this.seen = sights.length === 0 ? 0 : sights.length === 1 ? SHIFTS : SHIFTS + 1;
    this.count = this.features + this.seen;
    this.apart = apartOf(picture);
    this.total = this.apart + this.count;
    this.asked = isLarge ? ASKED_OF_MANY : 1;
    // Lines above and below the tiles need no filter there: what is asked lies so far inside.
    const skipped = isLarge ? REACH : 0;
    this.strip = stripToFit(picture, this.total);
    this.columns = new TileColumns(this.strip, this.total, picture.filter, skipped);
    this.small = new SmallTiles(this.strip);
    this.sights = sights.length > 0 ? new StripSights(this.strip, picture, this.columns, skipped) : null;
  }

  fit(row: number, fit: FitRoom): void {
    const { strip, apart, count, total, picture, seen, features } = this;
    const { at, exports, line, stride, tiles } = strip;
    const plane = FILTERED * line;
    strip.put(picture.mask, at.maskBytes, row * TILE - REACH, FILTERED);
    exports.widenMask(at.maskBytes, FILTERED * stride, at.mask);
    const isFirst = 'rims' in (fit.alone ?? fit).planes;
    this.fillFeatures(row, isFirst ? fit : null);
    if (isFirst) this.findRims();
    this.filter(at.light + AROUND * line, total);
    this.sights?.bring(row);
    exports.multiplyTiles(at.columns + apart * COLUMN, this.columns.next, count, tiles, at.grams + apart * (GRAM_ROW + 8));
    this.takeTotals(row, fit.totals);
    this.small.join(row, total);
    if (fit.alone) {
      this.regress(row, fit.alone.variances, apart + seen, features, false);
      this.takePlanes(row, fit.alone.planes);
    }
    const isSpread = picture.sights.length > 0;
    if (isSpread) this.columns.spread(apart, total, this.asked);
    this.regress(row, fit.variances, apart, count, isSpread);
    const byFeatures = fit.alone?.variances ?? picture.byFeatures;
    if (apart > 0 && byFeatures) this.regressApart(row, fit.variances, byFeatures);
    this.takePlanes(row, fit.planes);
    const { pixels, means, known } = fit;
    // The luminance is still there, with lines above and below.
    exports.sumTiles(at.light + (AROUND + REACH + 1) * line, line, at.mask + REACH * line, tiles, at.sums);
    strip.takeFigures(pixels, at.counts, row);
    strip.takeFigures(means, at.sums, row);
    const first = strip.firstOf(row);
    const end = first + strip.count;
    for (let tile = first; tile < end; tile++) means[tile] = means[tile]! / pixels[tile]!;
    if (isSpread && this.isNoisy(row, fit)) this.regress(row, fit.bySights, apart, seen, true);
    known.forEach((shares, which) => {
      exports.countTiles(at.known + which * plane + REACH * line, line, tiles, at.sums);
      strip.takeFigures(shares, at.sums, row);
      for (let tile = first; tile < end; tile++) shares[tile] = pixels[tile] === 0 ? 0 : shares[tile]! / pixels[tile]!;
    });
  }

  /** What is to be explained of each tile: the sum of its squares. */
  private takeTotals(row: number, totals: Float64Array): void {
    const { at, bytes, ahead, count } = this.strip;
    const first = this.strip.firstOf(row);
    const sums = new Float64Array(bytes.buffer, at.grams + ahead * MATRIX, (count * MATRIX) / 8);
    for (let tile = 0; tile < count; tile++) totals[first + tile] = sums[(tile * MATRIX + this.total * (GRAM_ROW + 8)) / 8]!;
  }

  /** Whether a stretch of a row has so much noise for its structure that what the sights alone leave tells anything. */
  private isNoisy(row: number, { variances, totals, pixels }: FitRoom): boolean {
    let [noise, all] = [0, 0];
    const first = this.strip.firstOf(row);
    for (let tile = first; tile < first + this.strip.count; tile++) {
      if (!Number.isFinite(variances[tile])) continue;
      noise += variances[tile]! * pixels[tile]!;
      all += totals[tile]!;
    }
    return noise > LEAST_NOISE * (all - noise);
  }

  /** Regresses what stands behind the columns on `count` of them. @param first of them @param isSpread whether any has noise: then they are spread */
  private regress(row: number, variances: Float64Array, first: number, count: number, isSpread: boolean): void {
    const { at } = this.strip;
    this.fitTiles(first, count, isSpread, { squares: at.squares, residuals: at.residuals, variances: at.variances, weights: 0 });
    this.strip.takeFigures(variances, at.variances, row);
  }

  /** Where there is structure that the features do not know, what is left is so far what all columns leave. */
  private regressApart(row: number, variances: Float64Array, byFeatures: Float64Array): void {
    const { strip, apart, total } = this;
    const { at, exports, line, tiles } = strip;
    const [weights, joined] = [strip.figures(at.weights), strip.figures(at.joined)];
    const first = strip.firstOf(row);
    for (let tile = 0; tile < weights.length; tile++) {
      const structure = Math.log(byFeatures[first + tile]! / variances[first + tile]! / SOME_STRUCTURE) / Math.log(MUCH_STRUCTURE / SOME_STRUCTURE);
      weights[tile] = structure > 0 && joined[tile] === 0 ? Math.min(1, structure) : 0;
    }
    if (weights.every((weight) => weight === 0)) return;
    exports.multiplyFirst(at.columns, this.columns.next, total, tiles, at.weights, at.grams);
    this.columns.spread(0, apart, this.asked);
    this.fitTiles(0, total, true, { squares: at.apartSquares, residuals: at.apartResiduals, variances: at.apartVariances, weights: at.weights });
    strip.figures(at.apartVariances).forEach((variance, tile) => {
      if (Number.isNaN(variance)) weights[tile] = 0;
      if (weights[tile]! > 0) variances[first + tile]! += weights[tile]! * (variance - variances[first + tile]!);
    });
    exports.mixTiles(at.squares, at.apartSquares, line, tiles, at.weights);
  }

  private fitTiles(first: number, count: number, isSpread: boolean, into: Readonly<Record<'squares' | 'residuals' | 'variances' | 'weights', number>>): void {
    const { at, exports, line, ahead, count: wanted } = this.strip;
    const { next, nextSpread } = this.columns;
    exports.fitTiles(
      at.columns + first * COLUMN,
      next,
      this.total - first,
      at.grams + first * (GRAM_ROW + 8),
      isSpread ? at.spread + first * SPREAD_COLUMN : 0,
      nextSpread,
      this.asked,
      count,
      at.mask,
      at.knownOf + first * 8,
      line,
      ahead,
      ahead + wanted,
      at.room,
      into.squares,
      into.residuals,
      into.variances,
      at.counts,
      at.joined,
      into.weights,
    );
  }

  private takePlanes(row: number, planes: LeftOverRoom['planes']): void {
    const { strip, picture } = this;
    const { at, exports, line, tiles } = strip;
    const { mask, squares, residuals, target } = at;
    const light = at.light + (AROUND + REACH) * line;
    if ('shares' in planes) exports.shareStrip(squares, light, line, mask + REACH * line, picture.least, at.scratch, at.shares);
    if ('target' in planes) exports.layOutColumn(at.columns + this.total * COLUMN, this.columns.next, tiles, line, target);
    const places: Record<FitPlane, number> = { squares, residuals, shares: at.shares, target, rims: at.rims };
    for (const [name, values] of Object.entries(planes)) strip.take(values, places[name as FitPlane], row);
  }

  /** Columns of what the surfaces explain: albedo, texture times the light that falls on it, normal, nearness. */
  private fillFeatures(row: number, fit: FitRoom | null): void {
    const { strip, picture } = this;
    const { at, exports, line } = strip;
    const { albedo, normal, depth, luminance } = picture;
    const first = row * TILE - REACH - 1 - AROUND;
    strip.put(luminance, at.light, first, WIDEST);
    normal?.forEach((values, c) => {
      strip.put(values, at.normals + c * WIDEST * line, first, WIDEST);
      exports.cleanStrip(at.normals + c * WIDEST * line, WIDEST * line);
    });
    if (depth) strip.put(depth, at.depths, first, WIDEST);
    // Behind what the sights show.
    let column = this.apart + this.seen;
    if (albedo) {
      strip.put(albedo, at.raw, first, WIDEST);
      exports.cleanStrip(at.raw, WIDEST * line);
      exports.litStrip(at.light, at.raw, line, RAW, at.scratch, at.lit);
      this.filter(at.raw + AROUND * line, column++);
      this.filter(at.lit, column++);
      if (this.hasSurfaces) {
        const [normals, depths] = [normal ? at.normals : 0, depth ? at.depths : 0];
        exports.surfaceStrip(
          at.light,
          at.raw,
          normals,
          WIDEST * line,
          depths,
          line,
          RAW,
          ONE_SURFACE,
          SAME_DEPTH,
          at.lit,
          at.scratch,
          at.oneSurface,
          at.ofSurface,
        );
        this.filter(at.ofSurface, column++);
      }
      // What a light from one side makes of texture.
      for (let c = 0; this.hasSides && c < (normal?.length ?? 0); c++) {
        exports.multiplyStrip(at.raw + AROUND * line, at.normals + (c * WIDEST + AROUND) * line, RAW * line, at.lit);
        this.filter(at.lit, column++);
      }
    }
    if (fit) this.findWithin(row, fit);
    normal?.forEach((_, c) => this.filter(at.normals + (c * WIDEST + AROUND) * line, column++));
    if (depth) {
      exports.nearStrip(at.depths, WIDEST * line, FARTHEST, at.raw);
      this.filter(at.raw + AROUND * line, column);
    }
  }

  /** What lies within pixels that several things share; albedo is there already. */
  private findWithin(row: number, { within, withinShared, shared }: FitRoom): void {
    const { strip, picture } = this;
    const { at, exports, line, tiles } = strip;
    const first = (REACH + AROUND + 1) * line;
    const [albedo, normals] = [picture.albedo ? at.raw + first : 0, picture.normal ? at.normals + first : 0];
    if (!albedo && !normals) return;
    exports.withinStrip(at.light + first, albedo, normals, WIDEST * line, line, at.mask + REACH * line, tiles, at.variances, at.sums, at.counts);
    strip.takeFigures(within, at.variances, row);
    strip.takeFigures(withinShared, at.sums, row);
    strip.takeFigures(shared, at.counts, row);
  }

  /** Where things end; nearness, and what belongs to one surface, are there already. */
  private findRims(): void {
    const { at, exports, line } = this.strip;
    const { normal, depth } = this.picture;
    // Two lines above the tiles.
    const above = (REACH + AROUND - 1) * line;
    const [near, normals] = [depth ? at.raw + above : 0, normal ? at.normals + above : 0];
    const [mask, oneSurface] = [at.mask + (REACH - 1) * line, this.hasSurfaces ? at.oneSurface : 0];
    exports.rimStrip(near, normals, WIDEST * line, mask, line, TILE, oneSurface, RIM_BENDS, RIM_NORMALS, at.edges, at.rims);
  }

  private filter(raw: number, column: number): void {
    this.columns.filter(raw, column, this.strip.at.mask);
  }
}
