// Where the points of a picture's pixels are in another frame.
import { valuesAt } from './lanes';

/** The nearest pixels of four points; -1 outside of the picture, and where a vector is no number. */
function placesAt(x: v128, y: v128, width: i32, height: i32): v128 {
  const half = f32x4.splat(0.5);
  const first = f32x4.splat(-0.5);
  const across = v128.and(f32x4.ge(x, first), f32x4.lt(x, f32x4.splat(f32(width) - 0.5)));
  const down = v128.and(f32x4.ge(y, first), f32x4.lt(y, f32x4.splat(f32(height) - 0.5)));
  const column = i32x4.trunc_sat_f32x4_s(f32x4.add(x, half));
  const row = i32x4.trunc_sat_f32x4_s(f32x4.add(y, half));
  const place = i32x4.add(i32x4.mul(row, i32x4.splat(width)), column);
  return v128.bitselect(place, i32x4.splat(-1), v128.and(across, down));
}

/** Vectors say where a point came from; where it goes is found by going back from there, so many times. */
const ROUNDS = 3;

/**
 * Places a frame earlier.
 *
 * @param across planes are read and written four pixels at a time: lines may end in the next, what is last in what stands behind
 * @param out one 32-bit number a pixel; may not stand where `across` or `down` do
 */
export function placesBefore(across: usize, down: usize, width: i32, height: i32, out: usize): void {
  for (let y = 0; y < height; y++) {
    const row = f32x4.splat(f32(y));
    let column = f32x4(0, 1, 2, 3);
    for (let x = 0; x < width; x += 4) {
      const at = usize(y * width + x) << 2;
      v128.store(out + at, placesAt(f32x4.add(column, v128.load(across + at)), f32x4.add(row, v128.load(down + at)), width, height));
      column = f32x4.add(column, f32x4.splat(4));
    }
  }
}

/**
 * Places a frame later, by that frame's vectors.
 *
 * @param across of the frame after, like `down`
 * @param ownAcross of the frame itself: what moves goes on about as it came
 * @param out as for the places before
 */
export function placesAfter(across: usize, down: usize, ownAcross: usize, ownDown: usize, width: i32, height: i32, out: usize): void {
  const none = i32x4.splat(-1);
  for (let y = 0; y < height; y++) {
    const row = f32x4.splat(f32(y));
    let column = f32x4(0, 1, 2, 3);
    for (let x = 0; x < width; x += 4) {
      const offset = usize(y * width + x) << 2;
      let at = placesAt(f32x4.sub(column, v128.load(ownAcross + offset)), f32x4.sub(row, v128.load(ownDown + offset)), width, height);
      for (let round = 0; round < ROUNDS; round++) {
        const next = placesAt(f32x4.sub(column, valuesAt(across, at)), f32x4.sub(row, valuesAt(down, at)), width, height);
        // What was outside stays there.
        const found = v128.bitselect(next, at, i32x4.gt_s(at, none));
        const isSame = i32x4.all_true(i32x4.eq(found, at));
        at = found;
        if (isSame) break;
      }
      v128.store(out + offset, at);
      column = f32x4.add(column, f32x4.splat(4));
    }
  }
}

/** Between four numbers, through the middle two, with the slopes of those beside (Catmull and Rom 1974). */
function between(a: v128, b: v128, c: v128, d: v128, t: f32): v128 {
  const half: f32 = 0.5;
  const before = f32x4.splat(t * (t * (1 - half * t) - half));
  const first = f32x4.splat(1 + t * t * (1.5 * t - 2.5));
  const second = f32x4.splat(t * (half + t * (2 - 1.5 * t)));
  const after = f32x4.splat(t * t * (half * t - half));
  return f32x4.add(f32x4.add(f32x4.mul(a, before), f32x4.mul(b, first)), f32x4.add(f32x4.mul(c, second), f32x4.mul(d, after)));
}

/** Four pixels of a line that lie side by side, and what is between the middle two. */
function betweenOnLine(line: usize, left: i32, last: i32, t: f32): v128 {
  if (left >= 1 && left + 2 <= last) {
    const at = line + (usize(left - 1) << 4);
    return between(v128.load(at), v128.load(at, 16), v128.load(at, 32), v128.load(at, 48), t);
  }
  return between(
    v128.load(line + (usize(max(0, left - 1)) << 4)),
    v128.load(line + (usize(left) << 4)),
    v128.load(line + (usize(min(last, left + 1)) << 4)),
    v128.load(line + (usize(min(last, left + 2)) << 4)),
    t,
  );
}

/**
 * Puts four planes together, pixel by pixel: the numbers of one are wanted together.
 *
 * @param next bytes from one plane to the next
 * @param count of pixels, rounded up to fours
 */
export function togetherByPixel(planes: usize, next: usize, count: i32, out: usize): void {
  for (let i = 0; i < count; i += 4, planes += 16, out += 64) {
    const a = v128.load(planes);
    const b = v128.load(planes + next);
    const c = v128.load(planes + 2 * next);
    const d = v128.load(planes + 3 * next);
    const firstOfAB = i32x4.shuffle(a, b, 0, 4, 1, 5);
    const lastOfAB = i32x4.shuffle(a, b, 2, 6, 3, 7);
    const firstOfCD = i32x4.shuffle(c, d, 0, 4, 1, 5);
    const lastOfCD = i32x4.shuffle(c, d, 2, 6, 3, 7);
    v128.store(out, i64x2.shuffle(firstOfAB, firstOfCD, 0, 2));
    v128.store(out, i64x2.shuffle(firstOfAB, firstOfCD, 1, 3), 16);
    v128.store(out, i64x2.shuffle(lastOfAB, lastOfCD, 0, 2), 32);
    v128.store(out, i64x2.shuffle(lastOfAB, lastOfCD, 1, 3), 48);
  }
}

/**
 * Brings pixels of four numbers each from places between those of a picture, to four planes.
 *
 * @param xs a 32-bit float a pixel, like `ys`: where it is found; zeros come out of places that are no numbers, or outside
 * @param next bytes from one plane to the next of what comes out
 */
export function bringPixels(pixels: usize, width: i32, height: i32, xs: usize, ys: usize, count: i32, out: usize, next: usize): void {
  const bytes = usize(width) << 4;
  for (let i = 0; i < count; i++, xs += 4, ys += 4, out += 4) {
    const x = load<f32>(xs);
    const y = load<f32>(ys);
    if (!(x >= 0 && y >= 0 && x <= f32(width - 1) && y <= f32(height - 1))) {
      for (let c: usize = 0; c < 4; c++) store<f32>(out + c * next, 0);
      continue;
    }
    const left = i32(x);
    const top = i32(y);
    const across = x - f32(left);
    const last = width - 1;
    const a = betweenOnLine(pixels + usize(max(0, top - 1)) * bytes, left, last, across);
    const b = betweenOnLine(pixels + usize(top) * bytes, left, last, across);
    const c = betweenOnLine(pixels + usize(min(height - 1, top + 1)) * bytes, left, last, across);
    const d = betweenOnLine(pixels + usize(min(height - 1, top + 2)) * bytes, left, last, across);
    const pixel = between(a, b, c, d, y - f32(top));
    v128.store32_lane(out, pixel, 0);
    v128.store32_lane(out + next, pixel, 1);
    v128.store32_lane(out + 2 * next, pixel, 2);
    v128.store32_lane(out + 3 * next, pixel, 3);
  }
}
