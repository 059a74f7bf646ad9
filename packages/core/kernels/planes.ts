// What passes are held against each other with, over planes of 32-bit floats: rows without anything between them.
import { sumOfFloats } from './lanes';

/**
 * Adds the strength of a picture's edges to numbers that are there: the gradients of means of 3 x 3 pixels of
 * log2(1 + 8 |x|) with the sign of x, in straight lines between powers of two.
 *
 * @param values two lines more above and below than `rows`; beyond `farthest`, and what is no number, counts as zero
 * @param scratch room for two times as many values, and 64 bytes for each time
 * @param out the outermost two columns are left as they are
 */
export function addEdges(values: usize, width: i32, rows: i32, farthest: f32, scratch: usize, out: usize): void {
  const line = usize(width) << 2;
  const size = usize(rows + 4) * line;
  const logs = scratch;
  const across = scratch + size + 64;
  const one = f32x4.splat(1);
  for (let i: usize = 0; i < size; i += 16) {
    const value = v128.load(values + i);
    const large = f32x4.abs(value);
    const raised = v128.bitselect(f32x4.add(one, f32x4.mul(large, f32x4.splat(8))), one, f32x4.lt(large, f32x4.splat(farthest)));
    // A float's exponent and fraction side by side are its logarithm, nearly.
    const logarithm = f32x4.mul(f32x4.convert_i32x4_s(i32x4.sub(raised, one)), f32x4.splat(1.0 / 8388608.0));
    v128.store(logs + i, v128.or(logarithm, v128.and(value, i32x4.splat(0x80000000))));
  }
  for (let i: usize = 4; i < size; i += 16) v128.store(across + i, f32x4.add(f32x4.add(v128.load(logs + i - 4), v128.load(logs + i)), v128.load(logs + i + 4)));
  const around = logs;
  for (let i = line; i < size - line; i += 16)
    v128.store(around + i, f32x4.add(f32x4.add(v128.load(across + i - line), v128.load(across + i)), v128.load(across + i + line)));
  for (let y = 0; y < rows; y++, out += line) {
    const from = around + usize(y + 2) * line;
    let x: usize = 8;
    for (; x + 16 <= line - 8; x += 16) {
      const at = from + x;
      const right = f32x4.abs(f32x4.sub(v128.load(at + 4), v128.load(at - 4)));
      const below = f32x4.abs(f32x4.sub(v128.load(at + line), v128.load(at - line)));
      v128.store(out + x, f32x4.add(v128.load(out + x), f32x4.add(right, below)));
    }
    for (; x < line - 8; x += 4) {
      const at = from + x;
      const right = Mathf.abs(load<f32>(at + 4) - load<f32>(at - 4));
      const below = Mathf.abs(load<f32>(at + line) - load<f32>(at - line));
      store<f32>(out + x, load<f32>(out + x) + right + below);
    }
  }
}

/** So many vectors are summed up as they are before their sums are added as 64-bit floats. */
const AT_ONCE: usize = 1024;

/**
 * Sums over pixels of how a pass changes from one plane to the next, and how four planes of the beauty do: squares of the
 * pass's change, of the beauty's three, and their products with the pass's. Pixels in which the pass does not change are left
 * out.
 *
 * @param planes six, `next` bytes from each other: two of the pass, four of the beauty; zeros behind them up to whole vectors
 * @param out seven 64-bit floats
 */
export function sumChanges(planes: usize, next: usize, size: usize, out: usize): void {
  memory.fill(out, 0, 7 * 8);
  for (let first: usize = 0; first < size; first += AT_ONCE) {
    let own = f32x4.splat(0);
    let early = own;
    let same = own;
    let late = own;
    let withEarly = own;
    let withSame = own;
    let withLate = own;
    const end = min(size, first + AT_ONCE);
    for (let i = first; i < end; i += 16) {
      const at = planes + i;
      const change = f32x4.sub(v128.load(at + next), v128.load(at));
      const counts = f32x4.ne(change, f32x4.splat(0));
      const b1 = v128.load(at + 3 * next);
      const b2 = v128.load(at + 4 * next);
      const x = v128.and(counts, f32x4.sub(b1, v128.load(at + 2 * next)));
      const y = v128.and(counts, f32x4.sub(b2, b1));
      const z = v128.and(counts, f32x4.sub(v128.load(at + 5 * next), b2));
      own = f32x4.add(own, f32x4.mul(change, change));
      early = f32x4.add(early, f32x4.mul(x, x));
      same = f32x4.add(same, f32x4.mul(y, y));
      late = f32x4.add(late, f32x4.mul(z, z));
      withEarly = f32x4.add(withEarly, f32x4.mul(change, x));
      withSame = f32x4.add(withSame, f32x4.mul(change, y));
      withLate = f32x4.add(withLate, f32x4.mul(change, z));
    }
    add(out, own);
    add(out + 8, early);
    add(out + 16, same);
    add(out + 24, late);
    add(out + 32, withEarly);
    add(out + 40, withSame);
    add(out + 48, withLate);
  }
}

function add(sum: usize, lanes: v128): void {
  store<f64>(sum, load<f64>(sum) + sumOfFloats(lanes));
}

/** What a pass can hold, as the numbers that `countOdd` is told. */
const DEPTH = 0;
const SIGNED_NORMAL = 1;
const NORMAL = 2;
const SHARE = 3;

function isWithin(value: v128, least: f32, most: f32): v128 {
  return v128.and(f32x4.ge(value, f32x4.splat(least)), f32x4.le(value, f32x4.splat(most)));
}

function squareOf(x: v128, y: v128, z: v128): v128 {
  return f32x4.add(f32x4.add(f32x4.mul(x, x), f32x4.mul(y, y)), f32x4.mul(z, z));
}

/** Lanes of all ones where a pass holds what it can hold: distances, normals of length 1, shares, or whole numbers. */
function soundLanes(kind: i32, at: usize, next: usize, many: i32, tolerance: f32): v128 {
  const first = v128.load(at);
  const none = f32x4.splat(0);
  if (kind == DEPTH) return f32x4.gt(first, none);
  if (kind == SIGNED_NORMAL || kind == NORMAL) {
    const y = v128.load(at + next);
    const z = v128.load(at + 2 * next);
    const unit: f32 = 1;
    const least = (unit - tolerance) * (unit - tolerance);
    const most = (unit + tolerance) * (unit + tolerance);
    const square = squareOf(first, y, z);
    // Where nothing is met there is no normal.
    const isUnit = v128.or(f32x4.eq(square, none), isWithin(square, least, most));
    if (kind == SIGNED_NORMAL) return isUnit;
    const two = f32x4.splat(2);
    const one = f32x4.splat(1);
    const spread = squareOf(f32x4.sub(f32x4.mul(first, two), one), f32x4.sub(f32x4.mul(y, two), one), f32x4.sub(f32x4.mul(z, two), one));
    return v128.or(isUnit, isWithin(spread, least, most));
  }
  if (kind == SHARE) {
    let all = isWithin(first, -tolerance, 1 + tolerance);
    for (let plane = 1; plane < many; plane++) all = v128.and(all, isWithin(v128.load(at + usize(plane) * next), -tolerance, 1 + tolerance));
    return all;
  }
  return f32x4.le(f32x4.abs(f32x4.sub(first, f32x4.nearest(first))), f32x4.splat(tolerance));
}

/**
 * Counts the pixels that are covered, and those of them where a pass holds what it cannot hold.
 *
 * @param kind 0 depth, 1 normals, 2 normals that may be kept as 0..1, 3 shares, 4 whole numbers
 * @param planes `many` of them, `next` bytes from each other
 * @param alpha pixels with less than `covered` do not count; 0 where all do
 * @param out two 64-bit floats: all, and the odd ones
 */
export function countOdd(kind: i32, planes: usize, next: usize, many: i32, tolerance: f32, alpha: usize, covered: f32, count: i32, out: usize): void {
  let all = i32x4.splat(0);
  let odd = i32x4.splat(0);
  let lanes = i32x4(0, 1, 2, 3);
  const end = i32x4.splat(count);
  for (let i = 0; i < count; i += 4, planes += 16) {
    let counts = i32x4.lt_s(lanes, end);
    lanes = i32x4.add(lanes, i32x4.splat(4));
    if (alpha) {
      // What is no number covers too.
      counts = v128.andnot(counts, f32x4.lt(v128.load(alpha), f32x4.splat(covered)));
      alpha += 16;
    }
    all = i32x4.sub(all, counts);
    odd = i32x4.sub(odd, v128.andnot(counts, soundLanes(kind, planes, next, many, tolerance)));
  }
  store<f64>(out, sumOfLanes(all));
  store<f64>(out + 8, sumOfLanes(odd));
}

function sumOfLanes(lanes: v128): f64 {
  return f64(i32x4.extract_lane(lanes, 0) + i32x4.extract_lane(lanes, 1) + i32x4.extract_lane(lanes, 2) + i32x4.extract_lane(lanes, 3));
}

/** Whether any value of a plane is no number, or infinite. @param count behind them up to whole vectors all are */
export function hasNoNumber(plane: usize, count: i32): i32 {
  const none = f32x4.splat(0);
  let sums = none;
  // What is infinite or no number times zero is no zero, and makes none of what it is added to.
  for (let i = 0; i < count; i += 4, plane += 16) sums = f32x4.add(sums, f32x4.mul(v128.load(plane), none));
  return v128.any_true(f32x4.ne(sums, sums)) ? 1 : 0;
}

/** Whether any value of a plane is below a limit. @param count behind them up to whole vectors none is */
export function hasBelow(plane: usize, count: i32, limit: f32): i32 {
  const most = f32x4.splat(limit);
  for (let i = 0; i < count; i += 4, plane += 16) if (v128.any_true(f32x4.lt(v128.load(plane), most))) return 1;
  return 0;
}
