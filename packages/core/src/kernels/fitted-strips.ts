import type { FitPlane, LeftOverRoom, PictureFit, PictureToFit } from './picture-to-fit.ts';
import { Strip, TILE } from './strip.ts';

/** Where nothing is met, depths are larger than this. */
const FARTHEST = 1e9;
/** Depth may differ by this share, and normals by this squared distance, before a point counts as another one. */
const SAME_DEPTH = 0.05;
const SAME_NORMAL = 0.5;
/** Lines of a strip that filters reach above its tiles, and those that are needed of what is not filtered yet. */
const REACH = 2;
const FILTERED = TILE + 2 * REACH;
const RAW = FILTERED + 2;
/** Means of 5 x 5 pixels need so many lines more. */
const AROUND = 2;
const WIDEST = RAW + 2 * AROUND;
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
const ASKED_OF_MANY = 4;
/** Centre, left, right, above, below. */
const SHIFTS = 5;
const OPPOSITE = [0, 2, 1, 4, 3] as const;
/** Of a tile's sums, in bytes: 32 x 32 64-bit floats. */
const GRAM_ROW = 32 * 8;
const MATRIX = 32 * GRAM_ROW;

type Part =
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
  | 'other'
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
  | 'variances'
  | 'counts'
  | 'sums'
  | 'luminances'
  | 'otherNormals'
  | 'otherDepths';

/** Where a fit's figures are written. */
type FitRoom = LeftOverRoom & Pick<PictureFit<never, never>, 'pixels' | 'means' | 'known' | 'bySights' | 'totals'> & { readonly alone: LeftOverRoom | null };

/** Fits one row of tiles after the other. */
export class FittedStrips {
  readonly strip: Strip<Part>;
  private readonly picture: PictureToFit;
  /** Whether texture is known, and what belongs to one surface. */
  private readonly hasSurfaces: boolean;
  private readonly features: number;
  /** Columns of what the sights show; they come first. */
  private readonly seen: number;
  private readonly count: number;
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
    const { count } = this;
    this.asked = isLarge ? ASKED_OF_MANY : 1;
    const filled = (columns: number) => (columns + 3) & ~3;
    this.strip = new Strip<Part>(picture, (line, across) => ({
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
      // Behind the features alone more columns are looked at than there are.
      columns: (filled(count + 2) + 4) * FILTERED * line,
      other: FILTERED * line,
      spread: sights.length === 0 ? 0 : filled(count) * TILE * line,
      knownOf: count * 8,
      scratch: 8 * (line + 32),
      room: 7 * MATRIX,
      grams: across * MATRIX,
      squares: TILE * line,
      residuals: TILE * line,
      shares: TILE * line,
      // Zeros before the first line.
      edgeRoom: line,
      edges: (TILE + 3) * line,
      rims: TILE * line,
      variances: across * 8,
      counts: across * 8,
      sums: across * 8,
      luminances: sights.length * width * height * 4,
      otherNormals: normal ? sights.length * 3 * width * height * 4 : 0,
      otherDepths: depth ? sights.length * width * height * 4 : 0,
    }));
    const { at, floats } = this.strip;
    const pixels = width * height;
    sights.forEach((sight, i) => {
      floats.set(sight.luminance, at.luminances / 4 + i * pixels);
      if (normal) sight.normal?.forEach((values, c) => floats.set(values, at.otherNormals / 4 + (i * 3 + c) * pixels));
      if (depth && sight.depth) floats.set(sight.depth, at.otherDepths / 4 + i * pixels);
    });
  }

  fit(row: number, fit: FitRoom): void {
    const { strip, count, picture, seen, features } = this;
    const { at, exports, line, stride, across } = strip;
    const plane = FILTERED * line;
    strip.put(picture.mask, at.maskBytes, row * TILE - REACH, FILTERED);
    exports.widenMask(at.maskBytes, FILTERED * stride, at.mask);
    this.fillFeatures(row);
    this.filter(at.light + AROUND * line, count);
    picture.sights.forEach((_, which) => this.place(which, row));
    if (picture.sights.length > 0) this.joinPlaces();
    picture.sights.forEach((_, which) => this.bring(which));
    exports.multiplyTiles(at.columns, plane, count, line, across, at.grams);
    this.takeTotals(row, fit.totals);
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
        exports.surfaceStrip(at.light, at.raw, normals, WIDEST * line, depths, line, RAW, ONE_SURFACE, SAME_DEPTH, at.lit, at.scratch, at.ofSurface);
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
    // Two lines above the tiles.
    const above = (REACH + AROUND - 1) * line;
    const [near, normals] = [depth ? at.raw + above : 0, normal ? at.normals + above : 0];
    exports.rimStrip(near, normals, WIDEST * line, at.mask + (REACH - 1) * line, line, TILE, RIM_BENDS, RIM_NORMALS, at.edges, at.rims);
  }

  private filter(raw: number, column: number): void {
    const { at, exports, line } = this.strip;
    const kernel = this.picture.filter === 'laplacian' ? exports.laplacianStrip : exports.highPassStrip;
    kernel(raw, line, FILTERED, at.mask, at.scratch, at.columns + column * FILTERED * line);
  }

  /** Finds where a neighbour shows the same surfaces. */
  private place(which: number, row: number): void {
    const { strip, picture } = this;
    const { at, exports, line, stride, whole } = strip;
    const { width, height, sights } = picture;
    const raw = RAW * line;
    const places = at.places + which * raw;
    // What stands behind the lines has no place either.
    if (row === 0) whole.fill(-1, places / 4, (places + raw) / 4);
    strip.put(sights[which]!.places, places, row * TILE - REACH - 1, RAW, -1);
    const pixels = width * height * 4;
    const count = RAW * stride;
    if (picture.depth && sights[which]!.depth)
      exports.hideDepths(places, count, at.depths + AROUND * line, at.otherDepths + which * pixels, FARTHEST, SAME_DEPTH);
    if (picture.normal && sights[which]!.normal)
      exports.hideNormals(places, count, at.normals + AROUND * line, WIDEST * line, at.otherNormals + which * 3 * pixels, pixels, SAME_NORMAL);
    exports.knownStrip(places, line, FILTERED, at.mask, at.scratch, at.known + which * FILTERED * line);
  }

  /** What one neighbour hides the other shows: a pixel is explained where either does. */
  private joinPlaces(): void {
    const { at, exports, line } = this.strip;
    const raw = RAW * line;
    exports.eitherStrip(at.places, at.places + (this.picture.sights.length - 1) * raw, raw, at.either);
    exports.knownStrip(at.either, line, FILTERED, at.mask, at.scratch, at.knownInEither);
  }

  /** Brings what a neighbour shows into the columns before the features. */
  private bring(which: number): void {
    const { strip, picture } = this;
    const { at, exports, line, stride, whole } = strip;
    const { width, height, sights } = picture;
    const [plane, raw] = [FILTERED * line, RAW * line];
    const pixels = width * height * 4;
    const other = sights.length - 1 - which;
    const [places, others] = [at.places + which * raw, sights.length > 1 ? at.places + other * raw : 0];
    const [own, theirs] = [at.luminances + which * pixels, at.luminances + other * pixels];
    exports.bringStrip(places, others, RAW * stride, own, theirs, width, width * height - 1, at.brought, raw);
    exports.cleanStrip(at.brought, SHIFTS * raw);
    for (let shift = 0; shift < SHIFTS; shift++) {
      const column = this.columnOf(which, shift);
      const out = at.columns + column * plane;
      const isAdded = sights.length === 2 && which === 1 && shift > 0;
      exports.highPassStrip(at.brought + shift * raw, line, FILTERED, at.knownInEither, at.scratch, isAdded ? at.other : out);
      if (isAdded) exports.addStrip(out, at.other, plane);
      whole[(at.knownOf + column * 8) / 4 + (isAdded ? 1 : 0)] = at.knownInEither;
    }
  }

  private columnOf(which: number, shift: number): number {
    if (this.picture.sights.length < 2) return shift;
    if (shift === 0) return which;
    return 1 + (which === 0 ? shift : OPPOSITE[shift]!);
  }
}
