// The filter that takes noise out of a picture: around every fourth pixel of every fourth line a first-order regression of
// the colours on what is known of the surfaces, with weights by how alike the patches around two pixels are (non-local
// weights: Buades and others 2005; with regression: Moon and others 2014; over all pixels of the window at once: Bitterli
// and others 2016). What each window says of its pixels is summed up with those weights.
import { sumsOfFour } from './lanes';
import { at, factor, MATRIX, solveFour } from './normal-equations';
import { ALL_SUMS, below, compare, EVERY, PATCH_PIXELS, REACH, SOME_SUMS, TOGETHER, WINDOW, WINDOW_LINE } from './patches';

/** Planes are filtered four at a time: colours, and with the first three noise of known size, which tells what is left of it. */
const TOGETHER_FILTERED: usize = 4;
/** Bytes of something for each of 32 columns: a vector. */
const OF_COLUMNS: usize = 32 * 16;

/** Planes that stand before the features, in this order. */
const GUIDE: usize = 0;
const TRUST: usize = 1;
const MASK: usize = 2;
const BEFORE: usize = 3;

/**
 * Filters with the windows around some centres of each of some lines.
 *
 * @param planes `plane` bytes from each other: what patches are compared by; one over twice its variance; 1 where a pixel is
 *   believed, else 0; `features` of them, such that a squared difference counts like a difference of patches; those to be
 *   filtered; and one more than these that sums are added to: of each, and of weights. At least 20 numbers stand before the
 *   first pixel of every line and behind the last, and 11 lines above and below
 * @param line bytes of a line
 * @param middle bytes from a plane's begin to the first centre of the first line of them
 * @param centres of a line: 32 at most
 * @param rows how many lines of centres
 * @param sharpness what differences of patches are multiplied with, beyond those that noise makes
 * @param filtered how many planes are filtered, a multiple of four; with the features 31 at most
 * @param room for 32 windows, 36 columns, three matrices, what patches differ by and 2 KB
 */
export function denoiseStrip(
  planes: usize,
  plane: usize,
  line: usize,
  middle: usize,
  centres: i32,
  rows: i32,
  features: usize,
  filtered: usize,
  sharpness: f32,
  room: usize,
): void {
  const distances = room;
  const columns = distances + usize(TOGETHER) * WINDOW;
  const sums = columns + 36 * WINDOW;
  const some = sums + ALL_SUMS;
  const matrices = some + SOME_SUMS;
  const step = usize(EVERY) * line;
  let from = planes + middle;
  const trust = from + TRUST * plane - 16;
  below(from + GUIDE * plane - 16 - step, trust - step, line, centres, sums);
  for (let row = 0; row < rows; row++, from += step) {
    compare(from + GUIDE * plane - 16, from + TRUST * plane - 16, line, centres, sums, some, distances);
    for (let i = 0; i < centres; i++)
      filterWindow(from + (usize(i * EVERY) << 2), plane, line, distances + usize(i) * WINDOW, features, filtered, sharpness, columns, matrices);
  }
}

/** Weights of a window's pixels, the regression, and what it says of each of them. */
function filterWindow(
  centre: usize,
  plane: usize,
  line: usize,
  distances: usize,
  features: usize,
  filtered: usize,
  sharpness: f32,
  columns: usize,
  matrices: usize,
): void {
  const gram = matrices;
  const lower = gram + MATRIX;
  const coefficients = lower + MATRIX;
  const owns = coefficients + MATRIX;
  const places = owns + OF_COLUMNS;
  const slopes = places + 64;
  const corner = centre - usize(REACH) * line - (usize(REACH) << 2);
  const all = features + filtered;
  // Features stand before the colours, in the planes and in the columns.
  for (let a: usize = 0; a < features; a++) v128.store(owns + (a << 4), v128.load32_splat(centre + (BEFORE + a) * plane));
  // A colour that is not believed may be anything, and would leave nothing of what it is taken from.
  const believed = v128.load32_splat(centre + MASK * plane);
  for (let a = features; a < all; a++) v128.store(owns + (a << 4), f32x4.mul(believed, v128.load32_splat(centre + (BEFORE + a) * plane)));
  const used = weigh(corner, plane, line, distances, features, sharpness, owns, columns, places);
  if (used == 0) return;
  for (let a: usize = 0; a < all; a++) fillColumn(corner + (BEFORE + a) * plane, owns + (a << 4), used, places, columns, columns + (a + 1) * WINDOW);
  const count = features + 1;
  for (let a: usize = 0; a <= all; a += 2) for (let b: usize = 0; b <= a + 1 && b < count; b += 4) multiply(columns, used, a, b, gram);
  factor(gram, count, lower);
  const ofColours = corner + (BEFORE + features) * plane;
  for (let c: usize = 0; c < filtered; c += TOGETHER_FILTERED) {
    solveFour(lower, count, at(gram, count + c, 0), coefficients);
    for (let i: usize = 0; i < count << 2; i++) v128.store(slopes + (i << 4), f32x4.splat(f32(load<f64>(coefficients + (i << 3)))));
    for (let i: usize = 0; i < TOGETHER_FILTERED; i++)
      v128.store(slopes + (i << 4), f32x4.add(v128.load(slopes + (i << 4)), v128.load(owns + ((features + c + i) << 4))));
    tell(ofColours + (filtered + c) * plane, plane, count, used, places, columns, slopes);
  }
  addWeights(ofColours + 2 * filtered * plane, used, places, columns);
}

/**
 * Roots of the weights of a window's pixels, and 0 for those that are not believed: the first column. Columns hold the lines
 * that have any weight alone, one after the other.
 *
 * @param owns the features of its centre, a vector each
 * @param places for each line that is kept the bytes from the window's first pixel to its own come out
 * @returns bytes of a column
 */
function weigh(corner: usize, plane: usize, line: usize, distances: usize, features: usize, sharpness: f32, owns: usize, columns: usize, places: usize): usize {
  const sharp = f32x4.splat(sharpness / PATCH_PIXELS);
  const byNoise = f32x4.splat(sharpness);
  let used: usize = 0;
  let place: usize = 0;
  for (let y: usize = 0; y < WINDOW; y += WINDOW_LINE, place += line) {
    const from = distances + y;
    // What noise alone makes of it is 1.
    let apart0 = beyondNoise(from, sharp, byNoise);
    let apart1 = beyondNoise(from + 16, sharp, byNoise);
    let apart2 = beyondNoise(from + 32, sharp, byNoise);
    let apart3 = beyondNoise(from + 48, sharp, byNoise);
    let pixel = corner + BEFORE * plane + place;
    for (let a: usize = 0; a < features; a++, pixel += plane) {
      const own = v128.load(owns + (a << 4));
      const difference0 = f32x4.sub(v128.load(pixel), own);
      const difference1 = f32x4.sub(v128.load(pixel, 16), own);
      const difference2 = f32x4.sub(v128.load(pixel, 32), own);
      const difference3 = f32x4.sub(v128.load(pixel, 48), own);
      apart0 = f32x4.add(apart0, f32x4.mul(difference0, difference0));
      apart1 = f32x4.add(apart1, f32x4.mul(difference1, difference1));
      apart2 = f32x4.add(apart2, f32x4.mul(difference2, difference2));
      apart3 = f32x4.add(apart3, f32x4.mul(difference3, difference3));
    }
    const mask = corner + MASK * plane + place;
    const root0 = f32x4.mul(rootOfWeight(apart0), v128.load(mask));
    const root1 = f32x4.mul(rootOfWeight(apart1), v128.load(mask, 16));
    const root2 = f32x4.mul(rootOfWeight(apart2), v128.load(mask, 32));
    const root3 = f32x4.mul(rootOfWeight(apart3), v128.load(mask, 48));
    if (!v128.any_true(v128.or(v128.or(root0, root1), v128.or(root2, root3)))) continue;
    const to = columns + used;
    v128.store(to, root0);
    v128.store(to, root1, 16);
    v128.store(to, root2, 32);
    v128.store(to, root3, 48);
    store<u32>(places + (used >> 4), u32(place));
    used += WINDOW_LINE;
  }
  return used;
}

function beyondNoise(distances: usize, sharp: v128, byNoise: v128): v128 {
  return f32x4.max(f32x4.splat(0), f32x4.sub(f32x4.mul(v128.load(distances), sharp), byNoise));
}

/** The root of exp(-x), nearly, and nothing from 16 on. */
function rootOfWeight(apart: v128): v128 {
  let root = f32x4.max(f32x4.splat(0), f32x4.sub(f32x4.splat(1), f32x4.mul(apart, f32x4.splat(0.0625))));
  root = f32x4.mul(root, root);
  root = f32x4.mul(root, root);
  return f32x4.mul(root, root);
}

/** What a plane's pixels differ by from the centre, times the roots of their weights. @param corner the window's first pixel */
function fillColumn(corner: usize, own: usize, used: usize, places: usize, roots: usize, column: usize): void {
  const centre = v128.load(own);
  for (let i: usize = 0; i < used; i += WINDOW_LINE) {
    const pixel = corner + load<u32>(places + (i >> 4));
    v128.store(column + i, f32x4.mul(v128.load(roots + i), f32x4.sub(v128.load(pixel), centre)));
    v128.store(column + i, f32x4.mul(v128.load(roots + i, 16), f32x4.sub(v128.load(pixel, 16), centre)), 16);
    v128.store(column + i, f32x4.mul(v128.load(roots + i, 32), f32x4.sub(v128.load(pixel, 32), centre)), 32);
    v128.store(column + i, f32x4.mul(v128.load(roots + i, 48), f32x4.sub(v128.load(pixel, 48), centre)), 48);
  }
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
  storeSums(at(gram, a, b), a0, a1, a2, a3);
  storeSums(at(gram, a + 1, b), b0, b1, b2, b3);
}

/** Sums of the numbers in each of four vectors, side by side as 64-bit floats. */
function storeSums(out: usize, a: v128, b: v128, c: v128, d: v128): void {
  const sums = sumsOfFour(a, b, c, d);
  v128.store(out, f64x2.promote_low_f32x4(sums));
  v128.store(out, f64x2.promote_low_f32x4(i32x4.shuffle(sums, sums, 2, 3, 2, 3)), 16);
}

/**
 * Adds what a window's regression says of four planes to their sums, by the weights of its pixels.
 *
 * @param to the first plane's sum for the window's first pixel
 * @param slopes of each column, for each of the four planes, a vector
 */
function tell(to: usize, plane: usize, count: usize, used: usize, places: usize, columns: usize, slopes: usize): void {
  for (let i: usize = 0; i < used; i += 32) {
    let said0 = f32x4.splat(0);
    let said1 = said0;
    let said2 = said0;
    let said3 = said0;
    let next0 = said0;
    let next1 = said0;
    let next2 = said0;
    let next3 = said0;
    let column = columns + i;
    let slope = slopes;
    for (let a: usize = 0; a < count; a++, column += WINDOW, slope += 64) {
      const value = v128.load(column);
      const next = v128.load(column, 16);
      let by = v128.load(slope);
      said0 = f32x4.add(said0, f32x4.mul(value, by));
      next0 = f32x4.add(next0, f32x4.mul(next, by));
      by = v128.load(slope, 16);
      said1 = f32x4.add(said1, f32x4.mul(value, by));
      next1 = f32x4.add(next1, f32x4.mul(next, by));
      by = v128.load(slope, 32);
      said2 = f32x4.add(said2, f32x4.mul(value, by));
      next2 = f32x4.add(next2, f32x4.mul(next, by));
      by = v128.load(slope, 48);
      said3 = f32x4.add(said3, f32x4.mul(value, by));
      next3 = f32x4.add(next3, f32x4.mul(next, by));
    }
    const root = v128.load(columns + i);
    const rootNext = v128.load(columns + i, 16);
    // Places are those of whole lines: this is one half or the other.
    const pixel = to + load<u32>(places + ((i >> 6) << 2)) + (i & 32);
    addTo(pixel, root, said0);
    addTo(pixel + 16, rootNext, next0);
    addTo(pixel + plane, root, said1);
    addTo(pixel + plane + 16, rootNext, next1);
    addTo(pixel + 2 * plane, root, said2);
    addTo(pixel + 2 * plane + 16, rootNext, next2);
    addTo(pixel + 3 * plane, root, said3);
    addTo(pixel + 3 * plane + 16, rootNext, next3);
  }
}

function addTo(sums: usize, root: v128, value: v128): void {
  v128.store(sums, f32x4.add(v128.load(sums), f32x4.mul(root, value)));
}

/** Adds the weights of a window's pixels to the sums of them. @param to of its first pixel */
function addWeights(to: usize, used: usize, places: usize, roots: usize): void {
  for (let i: usize = 0; i < used; i += 16) {
    const root = v128.load(roots + i);
    addTo(to + load<u32>(places + ((i >> 6) << 2)) + (i & 48), root, root);
  }
}

/** Multiplies a plane with a number. @param bytes whole vectors */
export function scalePlane(plane: usize, bytes: usize, by: f32): void {
  const factor = f32x4.splat(by);
  for (let i: usize = 0; i < bytes; i += 16) v128.store(plane + i, f32x4.mul(v128.load(plane + i), factor));
}

/**
 * What all windows say of pixels, who speak for themselves as well: in the place of the sums.
 *
 * @param sums, weights of so many pixels, of which each has its `own` value and weight
 * @param count a multiple of four
 */
export function takeSaid(sums: usize, weights: usize, own: usize, ownWeight: f32, count: usize): void {
  const by = f32x4.splat(ownWeight);
  for (let i: usize = 0; i < count << 2; i += 16) {
    const said = f32x4.add(v128.load(sums + i), f32x4.mul(by, v128.load(own + i)));
    v128.store(sums + i, f32x4.div(said, f32x4.add(v128.load(weights + i), by)));
  }
}
