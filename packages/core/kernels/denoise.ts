// The filter that takes noise out of a picture: around every fourth pixel of every fourth line a first-order regression of
// the colours on what is known of the surfaces, with weights by how alike the patches around two pixels are (non-local
// weights: Buades and others 2005; with regression: Moon and others 2014; over all pixels of the window at once: Bitterli
// and others 2016). What each window says of its pixels is summed up with those weights.
import { sumOfFloats } from './lanes';
import { at, factor, MATRIX, solve } from './normal-equations';

/** A window reaches so many pixels to each side; its lines are kept as whole vectors. */
const REACH: i32 = 8;
const WIDE: i32 = 17;
const WINDOW_LINE: usize = 80;
const WINDOW: usize = 17 * WINDOW_LINE;
/** Patches that are held against each other reach so far. */
const PATCH: i32 = 3;
const PATCH_PIXELS: f32 = 49;
/** Pixels from one centre to the next, across and down. */
const EVERY: i32 = 4;
/** So many centres are gone through together, so that what they read stays at hand. */
const TOGETHER: i32 = 32;
/** Planes are filtered four at a time: colours, and with the first three noise of known size, which tells what is left of it. */
const TOGETHER_FILTERED: usize = 4;
/** Bytes of a plane's coefficients. */
const SOLVED: usize = 256;

/** Planes that stand before the features, in this order. */
const GUIDE: usize = 0;
const TRUST: usize = 1;
const MASK: usize = 2;
const BEFORE: usize = 3;

/**
 * Filters with the windows around one line of centres.
 *
 * @param planes `plane` bytes from each other: what patches are compared by; one over twice its variance; 1 where a pixel is
 *   believed, else 0; `features` of them; those to be filtered; and one more than these that sums are added to: of each, and
 *   of weights. At least 20 numbers stand before the first pixel of every line and behind the last, and 11 lines above and below
 * @param line bytes of a line
 * @param middle bytes from a plane's begin to the first pixel of the line
 * @param scales one 32-bit float a feature: its squared difference times it counts like a difference of patches
 * @param sharpness what differences of patches are multiplied with, beyond those that noise makes
 * @param filtered how many planes are filtered, a multiple of four; with the features 31 at most
 * @param room for 32 windows, 36 columns, four matrices and 4 KB
 */
export function denoiseRow(
  planes: usize,
  plane: usize,
  line: usize,
  middle: usize,
  centres: i32,
  features: usize,
  filtered: usize,
  scales: usize,
  sharpness: f32,
  room: usize,
): void {
  const distances = room;
  const columns = distances + usize(TOGETHER) * WINDOW;
  const sums = columns + 36 * WINDOW;
  const matrices = sums + 1024;
  memory.fill(distances, 0, usize(TOGETHER) * WINDOW);
  for (let first = 0; first < centres; first += TOGETHER) {
    const many = min(TOGETHER, centres - first);
    const from = planes + middle + (usize(first * EVERY) << 2);
    compare(from, plane, line, many, sums, distances);
    for (let i = 0; i < many; i++)
      filterWindow(from + (usize(i * EVERY) << 2), plane, line, distances + usize(i) * WINDOW, features, filtered, scales, sharpness, columns, matrices);
  }
}

/** Sums of what patches around each of some centres and around each pixel of their windows differ by, over what noise makes of it. */
function compare(from: usize, plane: usize, line: usize, many: i32, sums: usize, distances: usize): void {
  const guide = from + GUIDE * plane - 16;
  const trust = from + TRUST * plane - 16 - usize(PATCH) * line;
  // Some more than there are centres: their sums are stored four at a time.
  const vectors = ((many + 3) & ~3) + 1;
  for (let down = -REACH; down <= REACH; down++) {
    for (let across = -REACH; across <= REACH; across++) {
      const here = guide - usize(PATCH) * line;
      const there = here + down * i32(line) + (across << 2);
      for (let v = 0; v < vectors; v++) {
        let sum = f32x4.splat(0);
        let x = usize(v) << 4;
        for (let y = 0; y < 2 * PATCH + 1; y++, x += line) {
          const apart = f32x4.sub(v128.load(here + x), v128.load(there + x));
          sum = f32x4.add(sum, f32x4.mul(f32x4.mul(apart, apart), v128.load(trust + x)));
        }
        v128.store(sums + (usize(v) << 4), sum);
      }
      let out = distances + usize(down + REACH) * WINDOW_LINE + (usize(across + REACH) << 2);
      // One centre a vector, and seven numbers around each: of four centres together.
      for (let i = 0, at = sums + 4; i < many; i += 4, at += 64, out += 4 * WINDOW) {
        const a = aroundCentre(at);
        const b = aroundCentre(at + 16);
        const c = aroundCentre(at + 32);
        const d = aroundCentre(at + 48);
        const ab = f32x4.add(i32x4.shuffle(a, b, 0, 1, 4, 5), i32x4.shuffle(a, b, 2, 3, 6, 7));
        const cd = f32x4.add(i32x4.shuffle(c, d, 0, 1, 4, 5), i32x4.shuffle(c, d, 2, 3, 6, 7));
        const all = f32x4.add(i32x4.shuffle(ab, cd, 0, 2, 4, 6), i32x4.shuffle(ab, cd, 1, 3, 5, 7));
        v128.store32_lane(out, all, 0);
        v128.store32_lane(out + WINDOW, all, 1);
        v128.store32_lane(out + 2 * WINDOW, all, 2);
        v128.store32_lane(out + 3 * WINDOW, all, 3);
      }
    }
  }
}

/** Seven numbers, in four lanes. */
function aroundCentre(at: usize): v128 {
  return f32x4.add(v128.load(at), v128.and(v128.load(at + 16), i32x4(-1, -1, -1, 0)));
}

/** Weights of a window's pixels, the regression, and what it says of each of them. */
function filterWindow(
  centre: usize,
  plane: usize,
  line: usize,
  distances: usize,
  features: usize,
  filtered: usize,
  scales: usize,
  sharpness: f32,
  columns: usize,
  matrices: usize,
): void {
  const corner = centre - usize(REACH) * line - (usize(REACH) << 2);
  const ofFeatures = BEFORE * plane;
  const ofColours = (BEFORE + features) * plane;
  const count = features + 1;
  const weights = columns + (count + filtered + 2) * WINDOW;
  const none = f32x4.splat(0);
  const one = f32x4.splat(1);
  const sharp = f32x4.splat(sharpness);
  const perPixel = f32x4.splat(1 / PATCH_PIXELS);
  const firstOnly = i32x4(-1, 0, 0, 0);
  // Columns hold what counts alone, one vector after the other.
  let used: usize = 0;
  for (let y: usize = 0; y < usize(WIDE); y++) {
    for (let x: usize = 0; x < WINDOW_LINE; x += 16) {
      const to = y * WINDOW_LINE + x;
      const pixel = corner + y * line + x;
      // What noise alone makes of it is 1.
      let apart = f32x4.mul(sharp, f32x4.max(none, f32x4.sub(f32x4.mul(v128.load(distances + to), perPixel), one)));
      for (let a: usize = 0; a < features; a++) {
        const from = ofFeatures + a * plane;
        const difference = f32x4.sub(v128.load(pixel + from), f32x4.splat(load<f32>(centre + from)));
        apart = f32x4.add(apart, f32x4.mul(f32x4.mul(difference, difference), f32x4.splat(load<f32>(scales + (a << 2)))));
        v128.store(columns + (a + 1) * WINDOW + used, difference);
      }
      // exp(-x / 2), nearly, and nothing from 16 on: the root of the weight.
      let root = f32x4.max(none, f32x4.sub(one, f32x4.mul(apart, f32x4.splat(0.0625))));
      root = f32x4.mul(root, root);
      root = f32x4.mul(root, root);
      root = f32x4.mul(root, root);
      if (x == 64) root = v128.and(root, firstOnly);
      v128.store(weights + to, f32x4.mul(root, root));
      if (!v128.any_true(root)) continue;
      const believed = f32x4.mul(root, v128.load(pixel + MASK * plane));
      v128.store(columns + used, believed);
      for (let a: usize = 1; a <= features; a++) {
        const column = columns + a * WINDOW + used;
        v128.store(column, f32x4.mul(believed, v128.load(column)));
      }
      for (let c: usize = 0; c < filtered; c++) {
        const from = ofColours + c * plane;
        const value = f32x4.sub(v128.load(pixel + from), f32x4.splat(load<f32>(centre + from)));
        v128.store(columns + (count + c) * WINDOW + used, f32x4.mul(believed, value));
      }
      used += 16;
    }
  }
  const gram = matrices;
  const lower = matrices + MATRIX;
  const coefficients = matrices + 2 * MATRIX;
  const all = count + filtered;
  for (let a: usize = 0; a < all; a += 2) for (let b: usize = 0; b <= a + 1 && b < count; b += 4) multiply(columns, used, a, b, gram);
  factor(gram, count, lower);
  for (let c: usize = 0; c < filtered; c++) solve(lower, count, at(gram, count + c, 0), coefficients + c * SOLVED);
  const ofSums = ofColours + filtered * plane;
  for (let c: usize = 0; c < filtered; c += TOGETHER_FILTERED)
    tell(centre, corner, plane, line, features, ofColours + c * plane, ofSums + c * plane, weights, coefficients + c * SOLVED);
  addWeights(corner + ofSums + filtered * plane, line, weights);
}

/** Sums over a window of the products of two columns with four others. @param used bytes of each */
function multiply(columns: usize, used: usize, a: usize, b: usize, gram: usize): void {
  const first = columns + a * WINDOW;
  const second = first + WINDOW;
  const others = columns + b * WINDOW;
  let a0 = f32x4.splat(0);
  let a1 = a0;
  let a2 = a0;
  let a3 = a0;
  let b0 = a0;
  let b1 = a0;
  let b2 = a0;
  let b3 = a0;
  for (let i: usize = 0; i < used; i += 16) {
    const x = v128.load(first + i);
    const y = v128.load(second + i);
    let value = v128.load(others + i);
    a0 = f32x4.add(a0, f32x4.mul(x, value));
    b0 = f32x4.add(b0, f32x4.mul(y, value));
    value = v128.load(others + i, WINDOW);
    a1 = f32x4.add(a1, f32x4.mul(x, value));
    b1 = f32x4.add(b1, f32x4.mul(y, value));
    value = v128.load(others + i, 2 * WINDOW);
    a2 = f32x4.add(a2, f32x4.mul(x, value));
    b2 = f32x4.add(b2, f32x4.mul(y, value));
    value = v128.load(others + i, 3 * WINDOW);
    a3 = f32x4.add(a3, f32x4.mul(x, value));
    b3 = f32x4.add(b3, f32x4.mul(y, value));
  }
  store<f64>(at(gram, a, b), sumOfFloats(a0));
  store<f64>(at(gram, a, b + 1), sumOfFloats(a1));
  store<f64>(at(gram, a, b + 2), sumOfFloats(a2));
  store<f64>(at(gram, a, b + 3), sumOfFloats(a3));
  store<f64>(at(gram, a + 1, b), sumOfFloats(b0));
  store<f64>(at(gram, a + 1, b + 1), sumOfFloats(b1));
  store<f64>(at(gram, a + 1, b + 2), sumOfFloats(b2));
  store<f64>(at(gram, a + 1, b + 3), sumOfFloats(b3));
}

/** Adds what a window's regression says of four planes of its pixels to their sums. @param ofColours, ofSums bytes from a pixel to the first of each */
function tell(
  centre: usize,
  corner: usize,
  plane: usize,
  line: usize,
  features: usize,
  ofColours: usize,
  ofSums: usize,
  weights: usize,
  coefficients: usize,
): void {
  const ofFeatures = BEFORE * plane;
  const base0 = f32x4.splat(load<f32>(centre + ofColours) + f32(load<f64>(coefficients)));
  const base1 = f32x4.splat(load<f32>(centre + ofColours + plane) + f32(load<f64>(coefficients + SOLVED)));
  const base2 = f32x4.splat(load<f32>(centre + ofColours + 2 * plane) + f32(load<f64>(coefficients + 2 * SOLVED)));
  const base3 = f32x4.splat(load<f32>(centre + ofColours + 3 * plane) + f32(load<f64>(coefficients + 3 * SOLVED)));
  for (let y: usize = 0; y < usize(WIDE); y++) {
    for (let x: usize = 0; x < WINDOW_LINE; x += 16) {
      const weight = v128.load(weights + y * WINDOW_LINE + x);
      if (!v128.any_true(weight)) continue;
      const pixel = corner + y * line + x;
      let said0 = base0;
      let said1 = base1;
      let said2 = base2;
      let said3 = base3;
      let slopes = coefficients + 8;
      for (let a: usize = 0; a < features; a++, slopes += 8) {
        const from = ofFeatures + a * plane;
        const difference = f32x4.sub(v128.load(pixel + from), f32x4.splat(load<f32>(centre + from)));
        said0 = f32x4.add(said0, f32x4.mul(difference, f32x4.splat(f32(load<f64>(slopes)))));
        said1 = f32x4.add(said1, f32x4.mul(difference, f32x4.splat(f32(load<f64>(slopes + SOLVED)))));
        said2 = f32x4.add(said2, f32x4.mul(difference, f32x4.splat(f32(load<f64>(slopes + 2 * SOLVED)))));
        said3 = f32x4.add(said3, f32x4.mul(difference, f32x4.splat(f32(load<f64>(slopes + 3 * SOLVED)))));
      }
      const to = pixel + ofSums;
      v128.store(to, f32x4.add(v128.load(to), f32x4.mul(weight, said0)));
      v128.store(to + plane, f32x4.add(v128.load(to + plane), f32x4.mul(weight, said1)));
      v128.store(to + 2 * plane, f32x4.add(v128.load(to + 2 * plane), f32x4.mul(weight, said2)));
      v128.store(to + 3 * plane, f32x4.add(v128.load(to + 3 * plane), f32x4.mul(weight, said3)));
    }
  }
}

/** Adds a window's weights to the sums of them. @param sums of the window's first pixel */
function addWeights(sums: usize, line: usize, weights: usize): void {
  for (let y: usize = 0; y < usize(WIDE); y++) {
    for (let x: usize = 0; x < WINDOW_LINE; x += 16) {
      const to = sums + y * line + x;
      v128.store(to, f32x4.add(v128.load(to), v128.load(weights + y * WINDOW_LINE + x)));
    }
  }
}
