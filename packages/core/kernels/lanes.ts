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
