// Masks of a picture's pixels, a byte each: 1 where one is set.

/** A mask of bytes as lanes. */
export function widenMask(bytes: usize, count: i32, out: usize): void {
  for (let i = 0; i < count; i++) store<i32>(out + (usize(i) << 2), load<u8>(bytes + usize(i)) != 0 ? -1 : 0);
}

/** Lanes of all ones where four luminances are numbers and, where there is an alpha, are covered. */
function isTold(luminance: usize, alpha: usize): v128 {
  const values = v128.load(luminance);
  // What is infinite or no number is not zero when it is taken from itself.
  const isNumber = f32x4.eq(f32x4.sub(values, values), f32x4.splat(0));
  return alpha ? v128.and(isNumber, f32x4.gt(v128.load(alpha), f32x4.splat(0))) : isNumber;
}

/** Fills a mask of bytes: 1 where a luminance is a number and is covered. @param alpha 0 for none @param count rounded up to sixteens; so much is written */
export function tellPixels(luminance: usize, alpha: usize, count: i32, out: usize): void {
  for (let i: usize = 0; i < usize(count); i += 16, luminance += 64, alpha += alpha ? 64 : 0) {
    const first = i16x8.narrow_i32x4_s(isTold(luminance, alpha), isTold(luminance + 16, alpha ? alpha + 16 : 0));
    const second = i16x8.narrow_i32x4_s(isTold(luminance + 32, alpha ? alpha + 32 : 0), isTold(luminance + 48, alpha ? alpha + 48 : 0));
    v128.store(out + i, v128.and(i8x16.narrow_i16x8_s(first, second), i8x16.splat(1)));
  }
}

/** Fills a mask of bytes: 1 where all of a pixel's 3 x 3 is set; never on the outermost ring. @param out as large, zero before */
export function wholeAround(mask: usize, width: i32, height: i32, out: usize): void {
  for (let y = 1; y < height - 1; y++) {
    const middle = mask + usize(y * width);
    const target = out + usize(y * width);
    let x = 1;
    for (; x + 16 <= width - 1; x += 16) {
      const at = middle + usize(x);
      let all = v128.and(v128.and(v128.load(at - 1), v128.load(at)), v128.load(at + 1));
      const above = at - usize(width);
      const below = at + usize(width);
      all = v128.and(all, v128.and(v128.and(v128.load(above - 1), v128.load(above)), v128.load(above + 1)));
      all = v128.and(all, v128.and(v128.and(v128.load(below - 1), v128.load(below)), v128.load(below + 1)));
      v128.store(target + usize(x), all);
    }
    for (; x < width - 1; x++) {
      let all: u8 = 1;
      for (let row = -1; row <= 1; row++) for (let step = -1; step <= 1; step++) all &= load<u8>(mask + usize((y + row) * width + x + step));
      store<u8>(target + usize(x), all);
    }
  }
}
