import type { PictureToFit } from './picture-to-fit.ts';
import { AROUND, FARTHEST, FILTERED, RAW, REACH, SAME_DEPTH, SHIFTS, WIDEST, type FittedPart } from './strip-layout.ts';
import { TILE, type Strip } from './strip.ts';

/** Normals may differ by this squared distance before a point counts as another one. */
const SAME_NORMAL = 0.5;
/** To each of the shifts the one that leads the other way. */
const OPPOSITE = [0, 2, 1, 4, 3] as const;

/** Brings what a picture's neighbours in time show into the first columns of a fit. */
export class StripSights {
  private readonly strip: Strip<FittedPart>;
  private readonly picture: PictureToFit;

  constructor(strip: Strip<FittedPart>, picture: PictureToFit) {
    [this.strip, this.picture] = [strip, picture];
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

  /** Brings what one neighbour shows into its columns. */
  private bringOne(which: number): void {
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
