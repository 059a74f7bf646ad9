// What JPEG does to blocks: quantisation undone, and the inverse cosine transform. The integer sums are those of the
// usual libraries, to the last bit (Loeffler, Ligtenberg and Moschytz 1989, with 13 bits of fraction); each rotation is
// written out as sums of two products, which vectors of 16-bit numbers make in one step.

/** Where each coefficient in file order belongs in a block, line by line (figure A.6). */
export const zigzag = memory.data<u8>([
  0, 1, 8, 16, 9, 2, 3, 10, 17, 24, 32, 25, 18, 11, 4, 5, 12, 19, 26, 33, 40, 48, 41, 34, 27, 20, 13, 6, 7, 14, 21, 28, 35, 42, 49, 56, 57, 50, 43, 36, 29, 22,
  15, 23, 30, 37, 44, 51, 58, 59, 52, 45, 38, 31, 39, 46, 53, 60, 61, 54, 47, 55, 62, 63,
]);

/** A block's eight lines of eight, 16 bits each. */
const block = memory.data(8 * 16, 16);
/** What each coefficient is multiplied with, line by line. */
const factors = memory.data(64 * 2, 16);

/** Two factors by turns, for values that lie by turns too. */
function pair(first: i32, second: i32): v128 {
  return i32x4.splat((second << 16) | (first & 0xffff));
}

/** The lines `first` and its mirror: the even part with the odd one added, and taken away. */
function put(first: usize, even: v128, odd: v128, evenHigh: v128, oddHigh: v128, shift: i32): void {
  const half = i32x4.splat(1 << (shift - 1));
  const low = i32x4.add(even, half);
  const high = i32x4.add(evenHigh, half);
  v128.store(block + first, i16x8.narrow_i32x4_s(i32x4.shr_s(i32x4.add(low, odd), shift), i32x4.shr_s(i32x4.add(high, oddHigh), shift)));
  v128.store(block + 112 - first, i16x8.narrow_i32x4_s(i32x4.shr_s(i32x4.sub(low, odd), shift), i32x4.shr_s(i32x4.sub(high, oddHigh), shift)));
}

/** The transform down the columns, all eight at a time; sums are shifted down at the end. */
function pass(shift: i32): void {
  const x0 = v128.load(block);
  const x1 = v128.load(block, 16);
  const x2 = v128.load(block, 32);
  const x3 = v128.load(block, 48);
  const x4 = v128.load(block, 64);
  const x5 = v128.load(block, 80);
  const x6 = v128.load(block, 96);
  const x7 = v128.load(block, 112);
  const l04 = i16x8.shuffle(x0, x4, 0, 8, 1, 9, 2, 10, 3, 11);
  const h04 = i16x8.shuffle(x0, x4, 4, 12, 5, 13, 6, 14, 7, 15);
  const l26 = i16x8.shuffle(x2, x6, 0, 8, 1, 9, 2, 10, 3, 11);
  const h26 = i16x8.shuffle(x2, x6, 4, 12, 5, 13, 6, 14, 7, 15);
  const l75 = i16x8.shuffle(x7, x5, 0, 8, 1, 9, 2, 10, 3, 11);
  const h75 = i16x8.shuffle(x7, x5, 4, 12, 5, 13, 6, 14, 7, 15);
  const l13 = i16x8.shuffle(x1, x3, 0, 8, 1, 9, 2, 10, 3, 11);
  const h13 = i16x8.shuffle(x1, x3, 4, 12, 5, 13, 6, 14, 7, 15);
  // Even lines: sum and difference of the first and the fifth, and the third and the seventh turned by three eighths.
  const sum = pair(8192, 8192);
  const difference = pair(8192, -8192);
  const turned3 = pair(10703, 4433);
  const turned2 = pair(4433, -10704);
  const lSum = i32x4.dot_i16x8_s(l04, sum);
  const hSum = i32x4.dot_i16x8_s(h04, sum);
  const lDifference = i32x4.dot_i16x8_s(l04, difference);
  const hDifference = i32x4.dot_i16x8_s(h04, difference);
  const l3 = i32x4.dot_i16x8_s(l26, turned3);
  const h3 = i32x4.dot_i16x8_s(h26, turned3);
  const l2 = i32x4.dot_i16x8_s(l26, turned2);
  const h2 = i32x4.dot_i16x8_s(h26, turned2);
  // Odd lines: each of the four sums takes all four.
  const of1 = pair(2260, 6437);
  const and1 = pair(11363, 9633);
  put(
    0,
    i32x4.add(lSum, l3),
    i32x4.add(i32x4.dot_i16x8_s(l75, of1), i32x4.dot_i16x8_s(l13, and1)),
    i32x4.add(hSum, h3),
    i32x4.add(i32x4.dot_i16x8_s(h75, of1), i32x4.dot_i16x8_s(h13, and1)),
    shift,
  );
  const of3 = pair(-6436, -11362);
  const and3 = pair(9633, -2259);
  put(
    16,
    i32x4.add(lDifference, l2),
    i32x4.add(i32x4.dot_i16x8_s(l75, of3), i32x4.dot_i16x8_s(l13, and3)),
    i32x4.add(hDifference, h2),
    i32x4.add(i32x4.dot_i16x8_s(h75, of3), i32x4.dot_i16x8_s(h13, and3)),
    shift,
  );
  const of5 = pair(9633, 2261);
  const and5 = pair(6437, -11362);
  put(
    32,
    i32x4.sub(lDifference, l2),
    i32x4.add(i32x4.dot_i16x8_s(l75, of5), i32x4.dot_i16x8_s(l13, and5)),
    i32x4.sub(hDifference, h2),
    i32x4.add(i32x4.dot_i16x8_s(h75, of5), i32x4.dot_i16x8_s(h13, and5)),
    shift,
  );
  const of7 = pair(-11363, 9633);
  const and7 = pair(2260, -6436);
  put(
    48,
    i32x4.sub(lSum, l3),
    i32x4.add(i32x4.dot_i16x8_s(l75, of7), i32x4.dot_i16x8_s(l13, and7)),
    i32x4.sub(hSum, h3),
    i32x4.add(i32x4.dot_i16x8_s(h75, of7), i32x4.dot_i16x8_s(h13, and7)),
    shift,
  );
}

/** Lines become columns. */
function turn(): void {
  const r0 = v128.load(block);
  const r1 = v128.load(block, 16);
  const r2 = v128.load(block, 32);
  const r3 = v128.load(block, 48);
  const r4 = v128.load(block, 64);
  const r5 = v128.load(block, 80);
  const r6 = v128.load(block, 96);
  const r7 = v128.load(block, 112);
  const a0 = i16x8.shuffle(r0, r1, 0, 8, 1, 9, 2, 10, 3, 11);
  const a1 = i16x8.shuffle(r0, r1, 4, 12, 5, 13, 6, 14, 7, 15);
  const a2 = i16x8.shuffle(r2, r3, 0, 8, 1, 9, 2, 10, 3, 11);
  const a3 = i16x8.shuffle(r2, r3, 4, 12, 5, 13, 6, 14, 7, 15);
  const a4 = i16x8.shuffle(r4, r5, 0, 8, 1, 9, 2, 10, 3, 11);
  const a5 = i16x8.shuffle(r4, r5, 4, 12, 5, 13, 6, 14, 7, 15);
  const a6 = i16x8.shuffle(r6, r7, 0, 8, 1, 9, 2, 10, 3, 11);
  const a7 = i16x8.shuffle(r6, r7, 4, 12, 5, 13, 6, 14, 7, 15);
  const b0 = i32x4.shuffle(a0, a2, 0, 4, 1, 5);
  const b1 = i32x4.shuffle(a0, a2, 2, 6, 3, 7);
  const b2 = i32x4.shuffle(a1, a3, 0, 4, 1, 5);
  const b3 = i32x4.shuffle(a1, a3, 2, 6, 3, 7);
  const b4 = i32x4.shuffle(a4, a6, 0, 4, 1, 5);
  const b5 = i32x4.shuffle(a4, a6, 2, 6, 3, 7);
  const b6 = i32x4.shuffle(a5, a7, 0, 4, 1, 5);
  const b7 = i32x4.shuffle(a5, a7, 2, 6, 3, 7);
  v128.store(block, i64x2.shuffle(b0, b4, 0, 2));
  v128.store(block, i64x2.shuffle(b0, b4, 1, 3), 16);
  v128.store(block, i64x2.shuffle(b1, b5, 0, 2), 32);
  v128.store(block, i64x2.shuffle(b1, b5, 1, 3), 48);
  v128.store(block, i64x2.shuffle(b2, b6, 0, 2), 64);
  v128.store(block, i64x2.shuffle(b2, b6, 1, 3), 80);
  v128.store(block, i64x2.shuffle(b3, b7, 0, 2), 96);
  v128.store(block, i64x2.shuffle(b3, b7, 1, 3), 112);
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
 * @param coefficients of 16 bits, 64 a block, line by line; `stride` blocks from a row of blocks to the next
 * @param quantisation 64 of 16 bits, in file order
 * @param out lines of `blocksAcross` times 8 bytes
 */
export function toSamples(coefficients: usize, stride: i32, blocksAcross: i32, blocksDown: i32, quantisation: usize, out: usize): void {
  const lineBytes = usize(blocksAcross * 8);
  const middle = i16x8.splat(128);
  for (let k: usize = 0; k < 64; k++) store<u16>(factors + 2 * usize(load<u8>(zigzag + k)), load<u16>(quantisation + 2 * k));
  for (let by = 0; by < blocksDown; by++) {
    for (let bx = 0; bx < blocksAcross; bx++) {
      const from = coefficients + 128 * usize(by * stride + bx);
      const to = out + usize(by * 8) * lineBytes + usize(bx * 8);
      if (isFlat(from)) {
        // The mean alone: both passes come to a shift.
        const value = (i32(load<i16>(from)) * i32(load<u16>(factors)) + 4) >> 3;
        const all = i8x16.splat(i8(min(255, max(0, value + 128))));
        for (let y: usize = 0; y < 8; y++) v128.store64_lane(to + y * lineBytes, all, 0);
        continue;
      }
      for (let i: usize = 0; i < 128; i += 16) v128.store(block + i, i16x8.mul(v128.load(from + i), v128.load(factors + i)));
      pass(11);
      turn();
      pass(18);
      turn();
      for (let y: usize = 0; y < 8; y++) {
        const words = i16x8.add_sat_s(v128.load(block + 16 * y), middle);
        v128.store64_lane(to + y * lineBytes, i8x16.narrow_i16x8_u(words, words), 0);
      }
    }
  }
}
