import type { FitPlane, LeftOverRoom, PictureFit, PictureToFit } from './picture-to-fit.ts';
import { AROUND, FARTHEST, FILTERED, GRAM_ROW, MATRIX, RAW, REACH, SAME_DEPTH, SHIFTS, stripToFit, WIDEST, type FittedPart } from './strip-layout.ts';
import { SmallTiles } from './small-tiles.ts';
import { StripSights } from './strip-sights.ts';
import { TILE, type Strip } from './strip.ts';

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

/** Where a fit's figures are written. */
type FitRoom = LeftOverRoom & Pick<PictureFit<never, never>, 'pixels' | 'means' | 'known' | 'bySights' | 'totals'> & { readonly alone: LeftOverRoom | null };

/** Fits one row of tiles after the other. */
export class FittedStrips {
  readonly strip: Strip<FittedPart>;
  private readonly picture: PictureToFit;
  private readonly sights: StripSights | null;
  private readonly small: SmallTiles;
  /** Whether texture is known, and what belongs to one surface. */
  private readonly hasSurfaces: boolean;
  private readonly features: number;
  /** Columns of what the sights show; they come first. */
  private readonly seen: number;
  private readonly count: number;
  /** What pixels weigh in their own fit is asked of each so many lines. */
  private readonly asked: number;
  /** Lines above and below the tiles that need no filter: what is asked lies so far inside. */
  private readonly skipped: number;
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
    const { count } = this;
    this.asked = isLarge ? ASKED_OF_MANY : 1;
    this.skipped = isLarge ? REACH : 0;
    this.strip = stripToFit(picture, count);
    this.small = new SmallTiles(this.strip);
    this.sights = sights.length > 0 ? new StripSights(this.strip, picture, this.skipped) : null;
  }

  fit(row: number, fit: FitRoom): void {
    const { strip, count, picture, seen, features } = this;
    const { at, exports, line, stride, across } = strip;
    const plane = FILTERED * line;
    strip.put(picture.mask, at.maskBytes, row * TILE - REACH, FILTERED);
    exports.widenMask(at.maskBytes, FILTERED * stride, at.mask);
    this.fillFeatures(row);
    if ('rims' in (fit.alone ?? fit).planes) this.findRims();
    this.filter(at.light + AROUND * line, count);
    this.sights?.bring(row);
    exports.multiplyTiles(at.columns, plane, count, line, across, at.grams);
    this.takeTotals(row, fit.totals);
    this.small.join(row, count);
    if (fit.alone) this.leave(row, fit.alone, seen, features, 0);
    const isSpread = picture.sights.length > 0;
    if (isSpread)
      for (let column = 0; column < count; column++)
        exports.spreadStrip(at.columns + column * plane, line, this.asked, at.scratch, at.spread + column * TILE * line);
    this.leave(row, fit, 0, count, isSpread ? at.spread : 0);
    const { pixels, means, known } = fit;
    // The luminance is still there, with lines above and below.
    exports.sumTiles(at.light + (AROUND + REACH + 1) * line, line, at.mask + REACH * line, across, at.sums);
    strip.takeFigures(pixels, at.counts, row);
    strip.takeFigures(means, at.sums, row);
    for (let tile = row * across; tile < (row + 1) * across; tile++) means[tile] = means[tile]! / pixels[tile]!;
    if (isSpread && this.isNoisy(row, fit)) this.leave(row, { variances: fit.bySights, planes: {} }, 0, seen, at.spread);
    known.forEach((shares, which) => {
      exports.countTiles(at.known + which * plane + REACH * line, line, across, at.sums);
      strip.takeFigures(shares, at.sums, row);
      for (let tile = row * across; tile < (row + 1) * across; tile++) shares[tile] = pixels[tile] === 0 ? 0 : shares[tile]! / pixels[tile]!;
    });
  }

  /** What is to be explained of each tile: the sum of its squares. */
  private takeTotals(row: number, totals: Float64Array): void {
    const { at, bytes, across } = this.strip;
    const sums = new Float64Array(bytes.buffer, at.grams, (across * MATRIX) / 8);
    for (let tile = 0; tile < across; tile++) totals[row * across + tile] = sums[(tile * MATRIX + this.count * (GRAM_ROW + 8)) / 8]!;
  }

  /** Whether a row has so much noise for its structure that what the sights alone leave tells anything. */
  private isNoisy(row: number, { variances, totals, pixels }: FitRoom): boolean {
    let [noise, all] = [0, 0];
    for (let tile = row * this.strip.across; tile < (row + 1) * this.strip.across; tile++) {
      if (!Number.isFinite(variances[tile])) continue;
      noise += variances[tile]! * pixels[tile]!;
      all += totals[tile]!;
    }
    return noise > LEAST_NOISE * (all - noise);
  }

  /** Regresses what stands behind the columns on `count` of them. @param first of them @param spread the columns spread, 0 where none has noise */
  private leave(row: number, { variances, planes }: LeftOverRoom, first: number, count: number, spread: number): void {
    const { strip, picture } = this;
    const { at, exports, line, across } = strip;
    const plane = FILTERED * line;
    const { mask, knownOf, room, squares, residuals } = at;
    const columns = at.columns + first * plane;
    const grams = at.grams + first * (GRAM_ROW + 8);
    exports.fitTiles(
      columns,
      plane,
      this.count - first,
      grams,
      spread,
      TILE * line,
      this.asked,
      count,
      mask,
      knownOf,
      line,
      across,
      room,
      squares,
      residuals,
      at.variances,
      at.counts,
      at.joined,
    );
    strip.takeFigures(variances, at.variances, row);
    const light = at.light + (AROUND + REACH) * line;
    if ('shares' in planes) exports.shareStrip(squares, light, line, mask + REACH * line, picture.least, at.scratch, at.shares);
    const target = at.columns + this.count * plane + REACH * line;
    const places: Record<FitPlane, number> = { squares, residuals, shares: at.shares, target, rims: at.rims };
    for (const [name, values] of Object.entries(planes)) strip.take(values, places[name as FitPlane], row);
  }

  /** Columns of what the surfaces explain: albedo, texture times the light that falls on it, normal, nearness. */
  private fillFeatures(row: number): void {
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
    let column = this.seen;
    const read = (values: Float32Array) => {
      strip.put(values, at.raw, first, WIDEST);
      exports.cleanStrip(at.raw, WIDEST * line);
    };
    if (albedo) {
      read(albedo);
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
    normal?.forEach((_, c) => this.filter(at.normals + (c * WIDEST + AROUND) * line, column++));
    if (depth) {
      read(depth);
      exports.nearStrip(at.raw, WIDEST * line, FARTHEST);
      this.filter(at.raw + AROUND * line, column);
    }
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
    const { at, exports, line } = this.strip;
    const kernel = this.picture.filter === 'laplacian' ? exports.laplacianStrip : exports.highPassStrip;
    const skipped = this.skipped * line;
    kernel(raw + skipped, line, FILTERED - 2 * this.skipped, at.mask + skipped, at.scratch, at.columns + column * FILTERED * line + skipped);
  }
}
