/** The lane numbers shifted up by `by`: swizzling with it moves bytes up and puts zeros below. */
export function shiftedUp(by: i32): v128 {
  const lanes = i8x16(0, 1, 2, 3, 4, 5, 6, 7, 8, 9, 10, 11, 12, 13, 14, 15);
  return i8x16.sub(lanes, i8x16.splat(i8(by)));
}

/** Sums from the first byte to each, of bytes that lie side by side. */
export function runningSums(bytes: v128): v128 {
  const none = i8x16.splat(0);
  let sums = i8x16.add(bytes, i8x16.shuffle(none, bytes, 0, 16, 17, 18, 19, 20, 21, 22, 23, 24, 25, 26, 27, 28, 29, 30));
  sums = i8x16.add(sums, i8x16.shuffle(none, sums, 0, 0, 16, 17, 18, 19, 20, 21, 22, 23, 24, 25, 26, 27, 28, 29));
  sums = i8x16.add(sums, i8x16.shuffle(none, sums, 0, 0, 0, 0, 16, 17, 18, 19, 20, 21, 22, 23, 24, 25, 26, 27));
  return i8x16.add(sums, i8x16.shuffle(none, sums, 0, 0, 0, 0, 0, 0, 0, 0, 16, 17, 18, 19, 20, 21, 22, 23));
}

/** The last byte in every lane. */
export function lastByte(bytes: v128): v128 {
  return i8x16.shuffle(bytes, bytes, 15, 15, 15, 15, 15, 15, 15, 15, 15, 15, 15, 15, 15, 15, 15, 15);
}

/** The four floats of a vector, added. */
export function sumOfFloats(lanes: v128): f64 {
  return f64(f32x4.extract_lane(lanes, 0)) + f64(f32x4.extract_lane(lanes, 1)) + f64(f32x4.extract_lane(lanes, 2)) + f64(f32x4.extract_lane(lanes, 3));
}

/** The sums of the floats in each of four vectors. */
export function sumsOfFour(a: v128, b: v128, c: v128, d: v128): v128 {
  const ab = f32x4.add(i32x4.shuffle(a, b, 0, 1, 4, 5), i32x4.shuffle(a, b, 2, 3, 6, 7));
  const cd = f32x4.add(i32x4.shuffle(c, d, 0, 1, 4, 5), i32x4.shuffle(c, d, 2, 3, 6, 7));
  return f32x4.add(i32x4.shuffle(ab, cd, 0, 2, 4, 6), i32x4.shuffle(ab, cd, 1, 3, 5, 7));
}

/** Whether four places lie side by side, and none is -1: what stands there can be read at once. */
export function lieInARow(places: v128): bool {
  const first = i32x4.extract_lane(places, 0);
  return first >= 0 && i32x4.all_true(i32x4.eq(places, i32x4.add(i32x4.splat(first), i32x4(0, 1, 2, 3))));
}

/** Values at four places, of which those that are none give any. */
export function valuesAt(plane: usize, places: v128): v128 {
  if (lieInARow(places)) return v128.load(plane + (usize(i32x4.extract_lane(places, 0)) << 2));
  let values = f32x4.splat(load<f32>(plane + (usize(max(i32x4.extract_lane(places, 0), 0)) << 2)));
  values = f32x4.replace_lane(values, 1, load<f32>(plane + (usize(max(i32x4.extract_lane(places, 1), 0)) << 2)));
  values = f32x4.replace_lane(values, 2, load<f32>(plane + (usize(max(i32x4.extract_lane(places, 2), 0)) << 2)));
  return f32x4.replace_lane(values, 3, load<f32>(plane + (usize(max(i32x4.extract_lane(places, 3), 0)) << 2)));
}
