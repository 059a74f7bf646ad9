import type { PassRole } from '../brief/index.ts';
import type { DepthOrder } from './depth-order.ts';
import { FARTHEST, type NoiseBuffers } from './noise/index.ts';

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
  /** Pixels whose edges change from the frame before: what `changes` rests on. */
  readonly changed: number;
  /** What the vectors leave of the difference to the frame before, as a share; null of other passes, and where nothing moves. */
  readonly unexplained: number | null;
  /** What the depth says of what hid things a frame earlier; null of other passes, and without vectors. */
  readonly order: DepthOrder | null;
  /** Of a matte: share of the pixels in which the frame's mattes do not sum to the alpha; null of other passes. */
  readonly gap: number | null;
  /** Mean of its values; null where they cannot be read. */
  readonly mean: number | null;
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
    case 'normal':
      return second && third ? oddNormalTest(first, second, third) : null;
    case 'occlusion':
    case 'matte':
      return (i) => values.some((plane) => !(plane[i]! >= -SHARE_TOLERANCE && plane[i]! <= 1 + SHARE_TOLERANCE));
    case 'id':
      return (i) => !(Math.abs(first[i]! - Math.round(first[i]!)) <= WHOLE_TOLERANCE);
    default:
      return null;
  }
}

function oddNormalTest(x: Float32Array, y: Float32Array, z: Float32Array): (i: number) => boolean {
  const [least, most] = [(1 - UNIT_TOLERANCE) ** 2, (1 + UNIT_TOLERANCE) ** 2];
  const isUnit = (square: number) => square >= least && square <= most;
  const squareOf = (alongX: number, alongY: number, alongZ: number) => alongX * alongX + alongY * alongY + alongZ * alongZ;
  const isSigned = x.some((value, i) => value < -0.01 || y[i]! < -0.01 || z[i]! < -0.01);
  return (i) => {
    const square = squareOf(x[i]!, y[i]!, z[i]!);
    // Where nothing is met there is no normal.
    if (square === 0 || isUnit(square)) return false;
    return isSigned || !isUnit(squareOf(2 * x[i]! - 1, 2 * y[i]! - 1, 2 * z[i]! - 1));
  };
}

/** Of larger pictures some stretches of lines are enough to tell whether two go together. */
const MOST_PIXELS = 250_000;
const STRETCH = 16;

/** The lines whose edges are looked at, as stretches [first, end). */
function stretchesOf(width: number, height: number): (readonly [number, number])[] {
  const every = Math.max(1, Math.ceil((width * height) / MOST_PIXELS));
  const stretches: (readonly [number, number])[] = [];
  for (let first = 2; first < height - 2; first += STRETCH * every) stretches.push([first, Math.min(height - 2, first + STRETCH)]);
  return stretches;
}

/**
 * Strength of the edges of a picture, along stretches of its lines: of light by its logarithm, so that dark ones count;
 * of distances likewise.
 */
export function edgesOf(planes: readonly Float32Array[], width: number, height: number): Float32Array {
  const stretches = stretchesOf(width, height);
  const out = new Float32Array(stretches.reduce((sum, [first, end]) => sum + (end - first) * width, 0));
  const room = new Float32Array((STRETCH + 4) * width);
  for (const plane of planes) {
    let at = 0;
    for (const [first, end] of stretches) {
      const rows = end - first;
      logarithms(plane.subarray((first - 2) * width, (end + 2) * width), room);
      addGradients(room, width, rows, out.subarray(at, at + rows * width));
      at += rows * width;
    }
  }
  return out;
}

/** log2(1 + 8 |x|) with the sign of x, in straight lines between powers of two; zero for what is no number, and beyond the farthest. */
function logarithms(values: Float32Array, out: Float32Array): void {
  const bits = new Int32Array(out.buffer, out.byteOffset, out.length);
  for (let i = 0; i < values.length; i++) {
    const value = values[i]!;
    out[i] = value < FARTHEST && value > -FARTHEST ? 1 + 8 * Math.abs(value) : 1;
    // A float's exponent and fraction side by side are its logarithm, nearly.
    const size = (bits[i]! - 0x3f800000) / 0x800000;
    out[i] = value < 0 ? -size : size;
  }
}

/** Adds the gradients of means of 3 x 3 pixels. @param values two lines more above and below than `out` has */
function addGradients(values: Float32Array, width: number, rows: number, out: Float32Array): void {
  const across = new Float32Array((rows + 4) * width);
  for (let i = 1; i < (rows + 4) * width - 1; i++) across[i] = values[i - 1]! + values[i]! + values[i + 1]!;
  for (let y = 0; y < rows; y++) {
    for (let x = 2, i = (y + 2) * width + 2; x < width - 2; x++, i++) {
      const right = across[i + 1 - width]! + across[i + 1]! + across[i + 1 + width]!;
      const left = across[i - 1 - width]! + across[i - 1]! + across[i - 1 + width]!;
      const below = across[i]! + across[i + width]! + across[i + 2 * width]!;
      const above = across[i]! + across[i - width]! + across[i - 2 * width]!;
      out[y * width + x] = out[y * width + x]! + Math.abs(right - left) + Math.abs(below - above);
    }
  }
}

/** Pixels in which two pictures of edges differ. */
export function changedPixels([before, after]: readonly [Float32Array, Float32Array]): number {
  let count = 0;
  if (before.length === after.length) for (let i = 0; i < before.length; i++) if (after[i] !== before[i]) count++;
  return count;
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
  const { here: pixels, there: places } = movingPixels(motion, width, height);
  if (pixels.length < FEWEST_MOVING) return null;
  const shares = surfacesOf(frame).flatMap((planes, group) => {
    const others = surfacesOf(before)[group] ?? [];
    let [left, still] = [0, 0];
    planes.forEach((plane, c) => {
      const other = others[c];
      if (!other) return;
      for (let i = 0; i < pixels.length; i++) {
        const own = plane[pixels[i]!]!;
        left += Math.abs(own - other[places[i]!]!);
        still += Math.abs(own - other[pixels[i]!]!);
      }
    });
    return still > 0 ? [left / still] : [];
  });
  return shares.length === 0 ? null : Math.min(...shares);
}

/** Pixels that move, and their places in the frame before; of larger pictures every so many. */
function movingPixels([across, down]: readonly [Float32Array, Float32Array], width: number, height: number): { here: Int32Array; there: Int32Array } {
  const every = Math.max(1, Math.ceil((width * height) / MOST_PIXELS));
  const room = Math.ceil(width / every) * height;
  const [here, there] = [new Int32Array(room), new Int32Array(room)];
  let count = 0;
  for (let y = 0; y < height; y++) {
    // Each line begins at another pixel, so that no pattern of the picture falls between.
    for (let x = y % every, i = y * width + x; x < width; x += every, i += every) {
      if (!(Math.abs(across[i]!) + Math.abs(down[i]!) > SHORTEST)) continue;
      const [column, row] = [Math.round(x + across[i]!), Math.round(y + down[i]!)];
      if (column < 0 || row < 0 || column >= width || row >= height) continue;
      here[count] = i;
      there[count++] = row * width + column;
    }
  }
  return { here: here.subarray(0, count), there: there.subarray(0, count) };
}

/** The planes of each pass that shows surfaces; light where none does. */
function surfacesOf({ albedo, normal, luminance }: NoiseBuffers): readonly (readonly Float32Array[])[] {
  const surfaces = [...(albedo ? [[albedo]] : []), ...(normal ? [normal] : [])];
  return surfaces.length > 0 ? surfaces : [[luminance]];
}
