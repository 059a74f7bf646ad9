import type { PictureToFit } from './picture-to-fit.ts';
import { apartOf, AROUND, FARTHEST, FILTERED, RAW, REACH, SAME_DEPTH, SHIFTS, WIDEST, type FittedPart } from './strip-layout.ts';
import { TILE, type Strip } from './strip.ts';
import type { TileColumns } from './tile-columns.ts';

/** Normals may differ by this squared distance before a point counts as another one. */
const SAME_NORMAL = 0.5;
/** To each of the shifts the one that leads the other way. */
const OPPOSITE = [0, 2, 1, 4, 3] as const;

/** Brings what a picture's neighbours in time show into the first columns of a fit. */
export class StripSights {
  private readonly strip: Strip<FittedPart>;
  private readonly picture: PictureToFit;
  private readonly columns: TileColumns;
  /** Lines that are left out above and below, and those that are left: filtered, and before they are. */
  private readonly skipped: number;
  private readonly filtered: number;
  private readonly raw: number;

  /** @param skipped of the lines above and below the tiles that filters reach, so many at either end are not wanted */
  constructor(strip: Strip<FittedPart>, picture: PictureToFit, columns: TileColumns, skipped: number) {
    [this.strip, this.picture, this.columns] = [strip, picture, columns];
    [this.skipped, this.filtered, this.raw] = [skipped, FILTERED - 2 * skipped, RAW - 2 * skipped];
    const { at, exports, floats } = strip;
    const { width, height, normal, depth, sights } = picture;
    const pixels = width * height;
    sights.forEach((sight, i) => {
      floats.set(sight.luminance, at.luminances / 4 + i * pixels);
      if (normal) sight.normal?.forEach((values, c) => floats.set(values, at.otherNormals / 4 + (i * 3 + c) * pixels));
      if (depth && sight.depth) floats.set(sight.depth, at.otherDepths / 4 + i * pixels);
    });
    exports.cleanStrip(at.luminances, sights.length * pixels * 4);
  }

  /** Fills the columns for a row of tiles, whose features are there already. */
  bring(row: number): void {
    const { sights } = this.picture;
    sights.forEach((_, which) => this.place(which, row));
    this.joinPlaces();
    sights.forEach((_, which) => this.bringOne(which));
  }

  /** Finds where a neighbour shows the same surfaces. */
  private place(which: number, row: number): void {
    const { strip, picture } = this;
    const { at, exports, line, stride, whole } = strip;
    const { width, height, sights } = picture;
    const skipped = this.skipped * line;
    const places = at.places + which * RAW * line + skipped;
    // What stands behind the lines has no place either.
    if (row === 0) whole.fill(-1, places / 4, (places + this.raw * line) / 4);
    strip.put(sights[which]!.places, places, row * TILE - REACH - 1 + this.skipped, this.raw, -1);
    const pixels = width * height * 4;
    const count = this.raw * stride;
    const inside = AROUND * line + skipped;
    if (picture.depth && sights[which]!.depth) exports.hideDepths(places, count, at.depths + inside, at.otherDepths + which * pixels, FARTHEST, SAME_DEPTH);
    if (picture.normal && sights[which]!.normal)
      exports.hideNormals(places, count, at.normals + inside, WIDEST * line, at.otherNormals + which * 3 * pixels, pixels, SAME_NORMAL);
    exports.knownStrip(places, line, this.filtered, at.mask + skipped, at.scratch, at.known + which * FILTERED * line + skipped);
  }

  /** What one neighbour hides the other shows: a pixel is explained where either does. */
  private joinPlaces(): void {
    const { at, exports, line } = this.strip;
    const skipped = this.skipped * line;
    const first = at.places + skipped;
    const second = first + (this.picture.sights.length - 1) * RAW * line;
    exports.eitherStrip(first, second, this.raw * line, at.either + skipped);
    exports.knownStrip(at.either + skipped, line, this.filtered, at.mask + skipped, at.scratch, at.knownInEither + skipped);
  }

  /** Brings what one neighbour shows into its columns. */
  private bringOne(which: number): void {
    const { strip, picture } = this;
    const { at, exports, line, stride, whole } = strip;
    const { width, height, sights } = picture;
    const raw = RAW * line;
    const pixels = width * height * 4;
    const other = sights.length - 1 - which;
    const skipped = this.skipped * line;
    const [places, others] = [at.places + which * raw + skipped, sights.length > 1 ? at.places + other * raw + skipped : 0];
    const [own, theirs] = [at.luminances + which * pixels, at.luminances + other * pixels];
    exports.bringStrip(places, others, this.raw * stride, own, theirs, width, width * height - 1, at.brought + skipped, raw);
    for (let shift = 0; shift < SHIFTS; shift++) {
      const column = this.columnOf(which, shift);
      const isAdded = sights.length === 2 && which === 1 && shift > 0;
      const from = at.brought + shift * raw;
      whole[(at.knownOf + column * 8) / 4 + (isAdded ? 1 : 0)] = at.knownInEither;
      if (!isAdded) {
        this.columns.filter(from, column, at.knownInEither);
        continue;
      }
      const apart = OPPOSITE[shift]! - 1;
      this.columns.filterMore(from, column, at.knownInEither, apart);
      // Each has the noise of both.
      whole.fill(at.knownInEither, (at.knownOf + apart * 8) / 4, (at.knownOf + (apart + 1) * 8) / 4);
    }
  }

  private columnOf(which: number, shift: number): number {
    const first = apartOf(this.picture);
    if (this.picture.sights.length < 2) return shift;
    if (shift === 0) return first + which;
    return first + 1 + (which === 0 ? shift : OPPOSITE[shift]!);
  }
}
