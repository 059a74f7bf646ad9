// What JPEG does to every sample: the inverse cosine transform of all blocks, halved chroma brought to full size, and
// luma and chroma turned into red, green and blue. The integer sums are those of the usual libraries, to the last bit
// (Loeffler, Ligtenberg and Moschytz 1989, with 13 bits of fraction).

/** Where each coefficient in file order belongs (ITU-T T.81, figure A.6). */
const zigzag = memory.data<u8>([
  0, 1, 8, 16, 9, 2, 3, 10, 17, 24, 32, 25, 18, 11, 4, 5, 12, 19, 26, 33, 40, 48, 41, 34, 27, 20, 13, 6, 7, 14, 21, 28, 35, 42, 49, 56, 57, 50, 43, 36, 29, 22,
  15, 23, 30, 37, 44, 51, 58, 59, 52, 45, 38, 31, 39, 46, 53, 60, 61, 54, 47, 55, 62, 63,
]);

const block = memory.data(64 * 4, 16);

const F0298: i32 = 2446;
const F0390: i32 = 3196;
const F0541: i32 = 4433;
const F0765: i32 = 6270;
const F0899: i32 = 7373;
const F1175: i32 = 9633;
const F1501: i32 = 12299;
const F1847: i32 = 15137;
const F1961: i32 = 16069;
const F2053: i32 = 16819;
const F2562: i32 = 20995;
const F3072: i32 = 25172;

function times(values: v128, factor: i32): v128 {
  return i32x4.mul(values, i32x4.splat(factor));
}

function put(at: usize, value: v128, shift: i32): void {
  v128.store(at, i32x4.shr_s(i32x4.add(value, i32x4.splat(1 << (shift - 1))), shift));
}

/** The transform down the columns, four of them at a time; sums are shifted down at the end. */
function pass(shift: i32): void {
  for (let half: usize = 0; half < 32; half += 16) {
    const b = block + half;
    const x0 = v128.load(b);
    const x1 = v128.load(b, 32);
    const x2 = v128.load(b, 64);
    const x3 = v128.load(b, 96);
    const x4 = v128.load(b, 128);
    const x5 = v128.load(b, 160);
    const x6 = v128.load(b, 192);
    const x7 = v128.load(b, 224);
    const even = times(i32x4.add(x2, x6), F0541);
    const even2 = i32x4.sub(even, times(x6, F1847));
    const even3 = i32x4.add(even, times(x2, F0765));
    const sum = i32x4.shl(i32x4.add(x0, x4), 13);
    const difference = i32x4.shl(i32x4.sub(x0, x4), 13);
    const t10 = i32x4.add(sum, even3);
    const t13 = i32x4.sub(sum, even3);
    const t11 = i32x4.add(difference, even2);
    const t12 = i32x4.sub(difference, even2);
    const z5 = times(i32x4.add(i32x4.add(x7, x3), i32x4.add(x5, x1)), F1175);
    const z1 = times(i32x4.add(x7, x1), -F0899);
    const z2 = times(i32x4.add(x5, x3), -F2562);
    const z3 = i32x4.add(times(i32x4.add(x7, x3), -F1961), z5);
    const z4 = i32x4.add(times(i32x4.add(x5, x1), -F0390), z5);
    const u0 = i32x4.add(i32x4.add(times(x7, F0298), z1), z3);
    const u1 = i32x4.add(i32x4.add(times(x5, F2053), z2), z4);
    const u2 = i32x4.add(i32x4.add(times(x3, F3072), z2), z3);
    const u3 = i32x4.add(i32x4.add(times(x1, F1501), z1), z4);
    put(b, i32x4.add(t10, u3), shift);
    put(b + 224, i32x4.sub(t10, u3), shift);
    put(b + 32, i32x4.add(t11, u2), shift);
    put(b + 192, i32x4.sub(t11, u2), shift);
    put(b + 64, i32x4.add(t12, u1), shift);
    put(b + 160, i32x4.sub(t12, u1), shift);
    put(b + 96, i32x4.add(t13, u0), shift);
    put(b + 128, i32x4.sub(t13, u0), shift);
  }
}

/** Four lines of four as four columns. */
function storeTurned(to: usize, r0: v128, r1: v128, r2: v128, r3: v128): void {
  const low01 = i32x4.shuffle(r0, r1, 0, 4, 1, 5);
  const high01 = i32x4.shuffle(r0, r1, 2, 6, 3, 7);
  const low23 = i32x4.shuffle(r2, r3, 0, 4, 1, 5);
  const high23 = i32x4.shuffle(r2, r3, 2, 6, 3, 7);
  v128.store(to, i64x2.shuffle(low01, low23, 0, 2));
  v128.store(to, i64x2.shuffle(low01, low23, 1, 3), 32);
  v128.store(to, i64x2.shuffle(high01, high23, 0, 2), 64);
  v128.store(to, i64x2.shuffle(high01, high23, 1, 3), 96);
}

function turnQuarters(a: usize, b: usize): void {
  const a0 = v128.load(a);
  const a1 = v128.load(a, 32);
  const a2 = v128.load(a, 64);
  const a3 = v128.load(a, 96);
  const b0 = v128.load(b);
  const b1 = v128.load(b, 32);
  const b2 = v128.load(b, 64);
  const b3 = v128.load(b, 96);
  storeTurned(b, a0, a1, a2, a3);
  storeTurned(a, b0, b1, b2, b3);
}

function turn(): void {
  turnQuarters(block, block);
  turnQuarters(block + 16, block + 128);
  turnQuarters(block + 144, block + 144);
}

/** Whether a block has its mean alone. */
function isFlat(from: usize): bool {
  let some = v128.and(v128.load(from), i16x8(0, -1, -1, -1, -1, -1, -1, -1));
  for (let i: usize = 16; i < 128; i += 16) some = v128.or(some, v128.load(from + i));
  return !v128.any_true(some);
}

/**
 * Undoes quantisation and the cosine transform of a component's blocks.
 *
 * @param coefficients of 16 bits, 64 a block in file order; `stride` blocks from a row of blocks to the next
 * @param quantisation 64 of 16 bits, in file order
 * @param out lines of `blocksAcross` times 8 bytes
 */
export function toSamples(coefficients: usize, stride: i32, blocksAcross: i32, blocksDown: i32, quantisation: usize, out: usize): void {
  const lineBytes = usize(blocksAcross * 8);
  const middle = i16x8.splat(128);
  for (let by = 0; by < blocksDown; by++) {
    for (let bx = 0; bx < blocksAcross; bx++) {
      const from = coefficients + 128 * usize(by * stride + bx);
      const to = out + usize(by * 8) * lineBytes + usize(bx * 8);
      if (isFlat(from)) {
        // The mean alone: both passes come to a shift.
        const value = (i32(load<i16>(from)) * i32(load<u16>(quantisation)) + 4) >> 3;
        const all = i8x16.splat(i8(min(255, max(0, value + 128))));
        for (let y: usize = 0; y < 8; y++) v128.store64_lane(to + y * lineBytes, all, 0);
        continue;
      }
      for (let k: usize = 0; k < 64; k++) {
        const value = i32(load<i16>(from + 2 * k));
        store<i32>(block + 4 * usize(load<u8>(zigzag + k)), value == 0 ? 0 : value * i32(load<u16>(quantisation + 2 * k)));
      }
      pass(11);
      turn();
      pass(18);
      turn();
      for (let y: usize = 0; y < 8; y++) {
        const row = block + 32 * y;
        const words = i16x8.add_sat_s(i16x8.narrow_i32x4_s(v128.load(row), v128.load(row, 16)), middle);
        v128.store64_lane(to + y * lineBytes, i8x16.narrow_i16x8_u(words, words), 0);
      }
    }
  }
}

/**
 * Brings a component that is halved across (and down, where `down` is 2) to full size: weighted three to one from the
 * nearer and the farther neighbour, rounding up and down by turns.
 *
 * @param sums room for `planeWidth` sums of 16 bits, and 32 before and behind them
 */
export function widen(plane: usize, stride: i32, planeWidth: i32, planeHeight: i32, width: i32, height: i32, down: i32, sums: usize, out: usize): void {
  const shift = down == 2 ? 4 : 2;
  const roundEven = i16x8.splat(down == 2 ? 8 : 1);
  const roundOdd = i16x8.splat(down == 2 ? 7 : 2);
  const three = i16x8.splat(3);
  const first = sums + 64;
  for (let y = 0; y < height; y++) {
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
    const to = out + usize(y * width);
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
  let to = out;
  for (let row = 0; row < height; row++) {
    const lumaRow = luma + usize(row * lumaStride);
    const blueRow = blue + usize(row * blueStride);
    const redRow = red + usize(row * redStride);
    let x: usize = 0;
    if (step == 3) {
      for (; x + 4 <= usize(width); x += 4) {
        const y = wide(lumaRow + x);
        const cb = i32x4.sub(wide(blueRow + x), i32x4.splat(128));
        const cr = i32x4.sub(wide(redRow + x), i32x4.splat(128));
        const half = i32x4.splat(32768);
        const r = i32x4.add(y, i32x4.shr_s(i32x4.add(times(cr, 91881), half), 16));
        const g = i32x4.add(y, i32x4.shr_s(i32x4.add(i32x4.add(times(cb, -22554), times(cr, -46802)), half), 16));
        const b = i32x4.add(y, i32x4.shr_s(i32x4.add(times(cb, 116130), half), 16));
        const bytes = i8x16.narrow_i16x8_u(i16x8.narrow_i32x4_s(r, g), i16x8.narrow_i32x4_s(b, b));
        v128.store(to, i8x16.shuffle(bytes, bytes, 0, 4, 8, 1, 5, 9, 2, 6, 10, 3, 7, 11, 0, 0, 0, 0));
        to += 12;
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

/** Four bytes in lanes of 32 bits. */
function wide(at: usize): v128 {
  return i32x4.extend_low_i16x8_u(i16x8.extend_low_i8x16_u(v128.load32_zero(at)));
}
