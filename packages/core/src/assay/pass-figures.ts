import type { PassRole } from '../brief/index.ts';
import { boxMean, FARTHEST, type NoiseBuffers } from './noise/index.ts';

/** What was measured of one frame of a pass beside the beauty. */
export interface PassFigures {
  readonly pass: string;
  readonly role: PassRole;
  readonly frame: number;
  /** Relative to the shot's folder. */
  readonly file: string;
  /** Share of the covered pixels that hold what such a pass cannot hold; null where the role says nothing. */
  readonly odd: number | null;
  /** How well the change of its edges from the frame before fits that of the beauty a frame earlier, at its own and a frame later; null where one lacks or nothing changes. */
  readonly changes: readonly [earlier: number, own: number, later: number] | null;
  /** What the vectors leave of the difference to the frame before, as a share; null of other passes, and where nothing moves. */
  readonly unexplained: number | null;
}

/** Normals are means over a pixel, and kept as halves. */
const UNIT_TOLERANCE = 0.15;
const SHARE_TOLERANCE = 0.01;
/** Of whole numbers kept as floats. */
const WHOLE_TOLERANCE = 1e-3;

/**
 * Share of a pass's covered pixels that hold what it cannot hold: a depth that is no distance, a normal that is not of
 * length 1, an occlusion or matte outside 0..1, an id that is no whole number. Normals may be kept as 0..1.
 *
 * @param alpha of the beauty; null where all of it is covered
 * @returns null where the role says nothing, or nothing is covered
 */
export function oddShare(role: PassRole, values: readonly Float32Array[], alpha: Float32Array | null): number | null {
  const isOdd = oddTest(role, values);
  if (!isOdd) return null;
  let [odd, all] = [0, 0];
  for (let i = 0; i < values[0]!.length; i++) {
    // At the rim of things a pixel is a mean of what is there and what is not.
    if (alpha && alpha[i]! < 0.999) continue;
    all++;
    if (isOdd(i)) odd++;
  }
  return all === 0 ? null : odd / all;
}

function oddTest(role: PassRole, values: readonly Float32Array[]): ((i: number) => boolean) | null {
  const [first, second, third] = values;
  if (!first) return null;
  switch (role) {
    case 'depth':
      return (i) => !(first[i]! > 0);
    case 'normal': {
      if (!second || !third) return null;
      const lengthOf = (i: number, scale: number, shift: number) =>
        Math.hypot(first[i]! * scale + shift, second[i]! * scale + shift, third[i]! * scale + shift);
      const isNot = (length: number) => !(Math.abs(length - 1) <= UNIT_TOLERANCE);
      const signed = first.some((value, i) => value < -0.01 || second[i]! < -0.01 || third[i]! < -0.01);
      // Where nothing is met there is no normal.
      return (i) => lengthOf(i, 1, 0) !== 0 && isNot(signed ? lengthOf(i, 1, 0) : Math.min(lengthOf(i, 1, 0), lengthOf(i, 2, -1)));
    }
    case 'occlusion':
    case 'matte':
      return (i) => values.some((plane) => !(plane[i]! >= -SHARE_TOLERANCE && plane[i]! <= 1 + SHARE_TOLERANCE));
    case 'id':
      return (i) => !(Math.abs(first[i]! - Math.round(first[i]!)) <= WHOLE_TOLERANCE);
    default:
      return null;
  }
}

/** Strength of the edges of a picture: of light by its logarithm, so that dark ones count; of distances likewise. */
export function edgesOf(planes: readonly Float32Array[], width: number, height: number): Float32Array {
  const out = new Float32Array(width * height);
  for (const plane of planes) {
    const values = new Float32Array(plane.length);
    for (let i = 0; i < values.length; i++)
      values[i] = Number.isFinite(plane[i]) && plane[i]! < FARTHEST ? Math.sign(plane[i]!) * Math.log1p(Math.abs(plane[i]!) * 8) : 0;
    const smooth = boxMean(values, width, height, 1);
    for (let y = 1; y < height - 1; y++) {
      for (let x = 1, i = y * width + 1; x < width - 1; x++, i++) {
        out[i] = out[i]! + Math.abs(smooth[i + 1]! - smooth[i - 1]!) + Math.abs(smooth[i + width]! - smooth[i - width]!);
      }
    }
  }
  return out;
}

/**
 * Correlation of what changes between two pictures of edges with what changes between two others, -1 to 1; null where
 * nothing does. What stands still fits every frame, and is left out so.
 */
export function changeFit(a: readonly [Float32Array, Float32Array], b: readonly [Float32Array, Float32Array]): number | null {
  if (a[0].length !== b[0].length || a[1].length !== a[0].length || b[1].length !== a[0].length) return null;
  let [aa, bb, ab] = [0, 0, 0];
  for (let i = 0; i < a[0].length; i++) {
    const changeA = a[1][i]! - a[0][i]!;
    // Where the pass stands still the beauty's noise would be all that is measured.
    if (changeA === 0) continue;
    const changeB = b[1][i]! - b[0][i]!;
    aa += changeA * changeA;
    bb += changeB * changeB;
    ab += changeA * changeB;
  }
  return aa > 0 && bb > 0 ? ab / Math.sqrt(aa * bb) : null;
}

/** The fewest pixels that must move for vectors to say anything. */
const FEWEST_MOVING = 64;
/** Pixels whose vectors are shorter say nothing. */
const SHORTEST = 0.5;

/**
 * What vectors leave of the difference to the frame before, over the pixels that they say move; 1 where they explain
 * nothing. Of several passes that show surfaces the one that they explain best counts: another may itself be wrong.
 *
 * @returns null where nothing moves, or nothing differs
 */
export function unexplainedBy(frame: NoiseBuffers, before: NoiseBuffers): number | null {
  const { motion, width, height } = frame;
  if (!motion) return null;
  // Pixels, and their places in the frame before.
  const moving: [number, number][] = [];
  for (let i = 0; i < width * height; i++) {
    const [dx, dy] = [motion[0][i]!, motion[1][i]!];
    if (!(Math.abs(dx) + Math.abs(dy) > SHORTEST)) continue;
    const [x, y] = [Math.round((i % width) + dx), Math.round(Math.floor(i / width) + dy)];
    if (x >= 0 && y >= 0 && x < width && y < height) moving.push([i, y * width + x]);
  }
  if (moving.length < FEWEST_MOVING) return null;
  const shares = surfacesOf(frame).flatMap((planes, group) => {
    const others = surfacesOf(before)[group] ?? [];
    let [left, still] = [0, 0];
    planes.forEach((plane, c) => {
      const other = others[c];
      if (!other) return;
      for (const [here, there] of moving) {
        left += Math.abs(plane[here]! - other[there]!);
        still += Math.abs(plane[here]! - other[here]!);
      }
    });
    return still > 0 ? [left / still] : [];
  });
  return shares.length === 0 ? null : Math.min(...shares);
}

/** The planes of each pass that shows surfaces; light where none does. */
function surfacesOf({ albedo, normal, luminance }: NoiseBuffers): readonly (readonly Float32Array[])[] {
  const surfaces = [...(albedo ? [[albedo]] : []), ...(normal ? [normal] : [])];
  return surfaces.length > 0 ? surfaces : [[luminance]];
}
