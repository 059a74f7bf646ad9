import { aligned, room, type Exports } from './memory.ts';

/** Pixels that are worked on together: their planes fit where they are quickly at hand. */
const AT_ONCE = 1 << 14;

/** Fills planes from others of one length, piece after piece. @param visit gets where each plane lies, those that are filled behind the others */
function fill(
  given: readonly Float32Array[],
  filled: readonly Float32Array[],
  visit: (exports: Exports, places: readonly number[], count: number) => void,
): void {
  const length = filled[0]!.length;
  const size = aligned(Math.min(AT_ONCE, length) * 4);
  const { exports, start, bytes } = room((given.length + filled.length) * size);
  const floats = new Float32Array(bytes.buffer);
  const places = [...given, ...filled].map((_, i) => start + i * size);
  for (let from = 0; from < length; from += AT_ONCE) {
    const to = Math.min(length, from + AT_ONCE);
    given.forEach((plane, i) => floats.set(plane.subarray(from, to), places[i]! / 4));
    visit(exports, places, (to - from + 3) & ~3);
    filled.forEach((plane, i) => {
      const at = places[given.length + i]! / 4;
      plane.set(floats.subarray(at, at + to - from), from);
    });
  }
}

/** What is known of the noise of a picture's pixels, plane by plane. */
export interface ToldNoise {
  readonly luminance: Float32Array;
  /** Grey; darker than `least` counts as that. */
  readonly albedo: Float32Array;
  readonly least: number;
  /** Squares of what surfaces do not explain, and what makes them variances. */
  readonly squares: Float32Array;
  readonly scales: Float32Array;
  /** Variances of the tiles, and how much they count beside those, from 0 to 1. */
  readonly tiles: Float32Array;
  readonly ofTile: number;
}

/** Light without its texture, that texture, and the standard deviation of each pixel's luminance. */
export function lightAndNoise({ luminance, albedo, least, squares, scales, tiles, ofTile }: ToldNoise) {
  const [light, texture, deviation] = [new Float32Array(luminance.length), new Float32Array(luminance.length), new Float32Array(luminance.length)];
  fill([luminance, albedo, squares, scales, tiles], [light, texture, deviation], (exports, [a, b, c, d, e, f, g, h], count) =>
    exports.tellNoise(a!, b!, c!, d!, e!, ofTile, least, count, f!, g!, h!),
  );
  return { light, texture, deviation };
}

/**
 * How far a pixel's light can be trusted: one over twice its variance.
 *
 * @param least variance that is never undercut: of the light's square
 * @param known noise with a deviation of 1: it becomes as large as the picture's
 */
export function trustInLight(light: Float32Array, texture: Float32Array, deviation: Float32Array, least: number, known: Float32Array): Float32Array {
  const trust = new Float32Array(light.length);
  fill([light, texture, deviation, known], [trust, known], (exports, [a, b, c, d, e, f], count) => exports.tellTrust(a!, b!, c!, least, d!, count, e!, f!));
  return trust;
}
