// Where the points of a picture's pixels are in another frame.

/** The nearest pixel; -1 outside of the picture, and where a vector is no number. */
function placeAt(x: f64, y: f64, width: i32, height: i32): i32 {
  if (!(x >= -0.5 && y >= -0.5 && x < f64(width) - 0.5 && y < f64(height) - 0.5)) return -1;
  return i32(y + 0.5) * width + i32(x + 0.5);
}

/** Vectors say where a point came from; where it goes is found by going back from there, so many times. */
const ROUNDS = 3;

/** Places a frame earlier. @param out one 32-bit number a pixel; may stand where `across` does */
export function placesBefore(across: usize, down: usize, width: i32, height: i32, out: usize): void {
  for (let y = 0; y < height; y++) {
    for (let x = 0; x < width; x++, across += 4, down += 4, out += 4)
      store<i32>(out, placeAt(f64(x) + f64(load<f32>(across)), f64(y) + f64(load<f32>(down)), width, height));
  }
}

/**
 * Places a frame later, by that frame's vectors.
 *
 * @param across of the frame after, like `down`
 * @param ownAcross of the frame itself: what moves goes on about as it came
 * @param out one 32-bit number a pixel; may stand where `ownAcross` does
 */
export function placesAfter(across: usize, down: usize, ownAcross: usize, ownDown: usize, width: i32, height: i32, out: usize): void {
  for (let y = 0; y < height; y++) {
    for (let x = 0; x < width; x++, ownAcross += 4, ownDown += 4, out += 4) {
      let at = placeAt(f64(x) - f64(load<f32>(ownAcross)), f64(y) - f64(load<f32>(ownDown)), width, height);
      for (let round = 0; round < ROUNDS && at >= 0; round++) {
        const offset = usize(at) << 2;
        const next = placeAt(f64(x) - f64(load<f32>(across + offset)), f64(y) - f64(load<f32>(down + offset)), width, height);
        if (next == at) break;
        at = next;
      }
      store<i32>(out, at);
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
