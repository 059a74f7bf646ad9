// What JPEG does to samples: halved chroma brought to full size, and luma and chroma turned into red, green and blue.
// The integer sums are those of the usual libraries, to the last bit.

/**
 * Brings a component that is halved across (and down, where `down` is 2) to full size: weighted three to one from the
 * nearer and the farther neighbour, rounding up and down by turns.
 *
 * @param line the first of `lines` that are made
 * @param sums room for `planeWidth` sums of 16 bits, and 32 before and behind them
 */
export function widen(
  plane: usize,
  stride: i32,
  planeWidth: i32,
  planeHeight: i32,
  width: i32,
  line: i32,
  lines: i32,
  down: i32,
  sums: usize,
  out: usize,
): void {
  const shift = down == 2 ? 4 : 2;
  const roundEven = i16x8.splat(down == 2 ? 8 : 1);
  const roundOdd = i16x8.splat(down == 2 ? 7 : 2);
  const three = i16x8.splat(3);
  const first = sums + 64;
  for (let y = line; y < line + lines; y++) {
    const near = down == 2 ? y >> 1 : y;
    const far = min(planeHeight - 1, max(0, near + (y & 1 ? 1 : -1)));
    const nearRow = plane + usize(near * stride);
    const farRow = plane + usize(far * stride);
    for (let x: usize = 0; x < usize(planeWidth); x += 8) {
      const value = v128.load_ext<u8>(nearRow + x);
      v128.store(first + 2 * x, down == 2 ? i16x8.add(i16x8.mul(value, three), v128.load_ext<u8>(farRow + x)) : value);
    }
    // At the edges there is no neighbour; three to one of itself is itself.
    store<u16>(first - 2, load<u16>(first));
    store<u16>(first + 2 * usize(planeWidth), load<u16>(first + 2 * usize(planeWidth - 1)));
    const to = out + usize((y - line) * width);
    for (let x: usize = 0; x + x < usize(width); x += 8) {
      const here = i16x8.mul(v128.load(first + 2 * x), three);
      const even = i16x8.shr_u(i16x8.add(i16x8.add(here, v128.load(first + 2 * x - 2)), roundEven), shift);
      const odd = i16x8.shr_u(i16x8.add(i16x8.add(here, v128.load(first + 2 * x + 2)), roundOdd), shift);
      const both = i8x16.narrow_i16x8_u(even, odd);
      v128.store(to + 2 * x, i8x16.shuffle(both, both, 0, 8, 1, 9, 2, 10, 3, 11, 4, 12, 5, 13, 6, 14, 7, 15));
    }
  }
}

function clamped(value: i32): u8 {
  return u8(min(255, max(0, value)));
}

/** Eight pairs of blue and red chroma times factors of 16 bits of fraction, rounded. */
function weighted(low: v128, high: v128, factors: v128): v128 {
  const half = i32x4.splat(32768);
  return i16x8.narrow_i32x4_s(
    i32x4.shr_s(i32x4.add(i32x4.dot_i16x8_s(low, factors), half), 16),
    i32x4.shr_s(i32x4.add(i32x4.dot_i16x8_s(high, factors), half), 16),
  );
}

/**
 * Luma and chroma as red, green and blue that lie pixel by pixel, `step` bytes apart (JFIF's conversion, ITU-R BT.601
 * of full range, with 16 bits of fraction).
 *
 * @param luma lines of `lumaStride` bytes; the others alike
 */
export function toRgb(
  luma: usize,
  lumaStride: i32,
  blue: usize,
  blueStride: i32,
  red: usize,
  redStride: i32,
  width: i32,
  height: i32,
  step: i32,
  out: usize,
): void {
  // What is beyond a half of a factor is added whole: 1.402 of red, -0.344 and -0.714 of green, 1.772 of blue.
  const ofRed = i32x4.splat(26345 << 16);
  const ofGreen = i32x4.splat((18734 << 16) | (-22554 & 0xffff));
  const ofBlue = i32x4.splat(-14942 & 0xffff);
  const middle = i16x8.splat(128);
  let to = out;
  for (let row = 0; row < height; row++) {
    const lumaRow = luma + usize(row * lumaStride);
    const blueRow = blue + usize(row * blueStride);
    const redRow = red + usize(row * redStride);
    let x: usize = 0;
    if (step == 3) {
      for (; x + 8 <= usize(width); x += 8) {
        const y = v128.load_ext<u8>(lumaRow + x);
        const cb = i16x8.sub(v128.load_ext<u8>(blueRow + x), middle);
        const cr = i16x8.sub(v128.load_ext<u8>(redRow + x), middle);
        const low = i16x8.shuffle(cb, cr, 0, 8, 1, 9, 2, 10, 3, 11);
        const high = i16x8.shuffle(cb, cr, 4, 12, 5, 13, 6, 14, 7, 15);
        const r = i16x8.add(y, i16x8.add(cr, weighted(low, high, ofRed)));
        const g = i16x8.add(y, i16x8.sub(weighted(low, high, ofGreen), cr));
        const b = i16x8.add(y, i16x8.add(i16x8.add(cb, cb), weighted(low, high, ofBlue)));
        const both = i8x16.narrow_i16x8_u(r, g);
        const last = i8x16.narrow_i16x8_u(b, b);
        v128.store(to, i8x16.shuffle(both, last, 0, 8, 16, 1, 9, 17, 2, 10, 18, 3, 11, 19, 4, 12, 20, 5));
        v128.store64_lane(to + 16, i8x16.shuffle(both, last, 13, 21, 6, 14, 22, 7, 15, 23, 0, 0, 0, 0, 0, 0, 0, 0), 0);
        to += 24;
      }
    }
    for (; x < usize(width); x++) {
      const y = i32(load<u8>(lumaRow + x));
      const cb = i32(load<u8>(blueRow + x)) - 128;
      const cr = i32(load<u8>(redRow + x)) - 128;
      store<u8>(to, clamped(y + ((91881 * cr + 32768) >> 16)));
      store<u8>(to, clamped(y + ((-22554 * cb - 46802 * cr + 32768) >> 16)), 1);
      store<u8>(to, clamped(y + ((116130 * cb + 32768) >> 16)), 2);
      to += usize(step);
    }
  }
}
