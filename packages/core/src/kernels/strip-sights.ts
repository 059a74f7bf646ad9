import type { PictureToFit } from './picture-to-fit.ts';
import { apartOf, AROUND, FARTHEST, FILTERED, RAW, REACH, SAME_DEPTH, SHIFTS, WIDEST, type FittedPart } from './strip-layout.ts';
import { TILE, type Strip } from './strip.ts';

/** Normals may differ by this squared distance before a point counts as another one. */
const SAME_NORMAL = 0.5;
/** To each of the shifts the one that leads the other way. */
const OPPOSITE = [0, 2, 1, 4, 3] as const;

/** Brings what a picture's neighbours in time show into the first columns of a fit. */
export class StripSights {
  private readonly strip: Strip<FittedPart>;
  private readonly picture: PictureToFit;
  /** Lines that are left out above and below, and those that are left: filtered, and before they are. */
  private readonly skipped: number;
  private readonly filtered: number;
  private readonly raw: number;

  /** @param skipped of the lines above and below the tiles that filters reach, so many at either end are not wanted */
  constructor(strip: Strip<FittedPart>, picture: PictureToFit, skipped: number) {
    [this.strip, this.picture] = [strip, picture];
    [this.skipped, this.filtered, this.raw] = [skipped, FILTERED - 2 * skipped, RAW - 2 * skipped];
    const { at, floats } = strip;
    const { width, height, normal, depth, sights } = picture;
    const pixels = width * height;
    sights.forEach((sight, i) => {
      floats.set(sight.luminance, at.luminances / 4 + i * pixels);
      if (normal) sight.normal?.forEach((values, c) => floats.set(values, at.otherNormals / 4 + (i * 3 + c) * pixels));
      if (depth && sight.depth) floats.set(sight.depth, at.otherDepths / 4 + i * pixels);
    });
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
    const [plane, raw] = [FILTERED * line, RAW * line];
    const pixels = width * height * 4;
    const other = sights.length - 1 - which;
    const skipped = this.skipped * line;
    const [places, others] = [at.places + which * raw + skipped, sights.length > 1 ? at.places + other * raw + skipped : 0];
    const [own, theirs] = [at.luminances + which * pixels, at.luminances + other * pixels];
    exports.bringStrip(places, others, this.raw * stride, own, theirs, width, width * height - 1, at.brought + skipped, raw);
    exports.cleanStrip(at.brought, SHIFTS * raw);
    for (let shift = 0; shift < SHIFTS; shift++) {
      const column = this.columnOf(which, shift);
      const out = at.columns + column * plane + skipped;
      const isAdded = sights.length === 2 && which === 1 && shift > 0;
      const [from, mask] = [at.brought + shift * raw + skipped, at.knownInEither + skipped];
      exports.highPassStrip(from, line, this.filtered, mask, at.scratch, isAdded ? at.other : out);
      whole[(at.knownOf + column * 8) / 4 + (isAdded ? 1 : 0)] = at.knownInEither;
      if (!isAdded) continue;
      exports.addStrip(out, at.other, this.filtered * line, at.columns + (OPPOSITE[shift]! - 1) * plane + skipped);
      // Each has the noise of both.
      whole.fill(at.knownInEither, (at.knownOf + (OPPOSITE[shift]! - 1) * 8) / 4, (at.knownOf + OPPOSITE[shift]! * 8) / 4);
    }
  }

  private columnOf(which: number, shift: number): number {
    const first = apartOf(this.picture);
    if (this.picture.sights.length < 2) return shift;
    if (shift === 0) return first + which;
    return first + 1 + (which === 0 ? shift : OPPOSITE[shift]!);
  }
}
