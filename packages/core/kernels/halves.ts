import { lastByte, runningSums } from './lanes';

/**
 * Undoes the differences of EXR's zip and rle (each byte is one from the byte before, offset by 128) and brings
 * the even bytes, which stand in the first half, and the odd ones together.
 *
 * Byte i is the sum of the first i + 1 bytes and i times 128; of that product only whether i is odd matters in
 * eight bits. The sum over the first half is taken first, so that both halves can be walked side by side.
 *
 * @param split `size` bytes
 * @param out `size` bytes, and 32 that may be overwritten
 */
export function joinHalves(split: usize, out: usize, size: i32): void {
  const half = (size + 1) >> 1;
  const pairs = size >> 1;
  const odds = split + half;
  const alternating = i8x16(0, -128, 0, -128, 0, -128, 0, -128, 0, -128, 0, -128, 0, -128, 0, -128);
  const oddAlternating = half & 1 ? v128.xor(alternating, i8x16.splat(-128)) : alternating;
  let even = i8x16.splat(0);
  let odd = i8x16.splat(i8(sumOf(split, half)));
  let i = 0;
  for (; i + 16 <= pairs; i += 16) {
    const evenSums = i8x16.add(runningSums(v128.load(split + i)), even);
    const oddSums = i8x16.add(runningSums(v128.load(odds + i)), odd);
    even = lastByte(evenSums);
    odd = lastByte(oddSums);
    const evens = v128.xor(evenSums, alternating);
    const others = v128.xor(oddSums, oddAlternating);
    v128.store(out + 2 * i, i8x16.shuffle(evens, others, 0, 16, 1, 17, 2, 18, 3, 19, 4, 20, 5, 21, 6, 22, 7, 23));
    v128.store(out + 2 * i, i8x16.shuffle(evens, others, 8, 24, 9, 25, 10, 26, 11, 27, 12, 28, 13, 29, 14, 30, 15, 31), 16);
  }
  let evenSum: u32 = i8x16.extract_lane_u(even, 0);
  let oddSum: u32 = i8x16.extract_lane_u(odd, 0);
  for (; i < pairs; i++) {
    evenSum += load<u8>(split + i);
    oddSum += load<u8>(odds + i);
    store<u8>(out + 2 * i, u8(evenSum + u32(i & 1) * 128));
    store<u8>(out + 2 * i + 1, u8(oddSum + u32((half + i) & 1) * 128));
  }
  if (half > pairs) store<u8>(out + 2 * pairs, u8(evenSum + load<u8>(split + pairs) + u32(pairs & 1) * 128));
}

/**
 * Brings the even bytes into a first half and the odd ones into a second, and puts in the place of each byte but the first
 * its difference from the byte before, offset by 128.
 *
 * @param out `size` bytes
 */
export function splitHalves(pixels: usize, out: usize, size: i32): void {
  const half = (size + 1) >> 1;
  const pairs = size >> 1;
  const odds = out + half;
  const offset = i8x16.splat(-128);
  let even = i8x16.splat(0);
  let odd = even;
  let i = 0;
  for (; i + 16 <= pairs; i += 16) {
    const first = v128.load(pixels + 2 * i);
    const second = v128.load(pixels + 2 * i, 16);
    const evens = i8x16.shuffle(first, second, 0, 2, 4, 6, 8, 10, 12, 14, 16, 18, 20, 22, 24, 26, 28, 30);
    const others = i8x16.shuffle(first, second, 1, 3, 5, 7, 9, 11, 13, 15, 17, 19, 21, 23, 25, 27, 29, 31);
    v128.store(out + i, i8x16.add(i8x16.sub(evens, afterLast(even, evens)), offset));
    v128.store(odds + i, i8x16.add(i8x16.sub(others, afterLast(odd, others)), offset));
    even = evens;
    odd = others;
  }
  for (; i < half; i++) store<u8>(out + i, u8(load<u8>(pixels + 2 * i) - (i > 0 ? load<u8>(pixels + 2 * i - 2) : 0) + 128));
  for (i = pairs & ~15; i < pairs; i++) store<u8>(odds + i, u8(load<u8>(pixels + 2 * i + 1) - (i > 0 ? load<u8>(pixels + 2 * i - 1) : 0) + 128));
  // Before the first byte is nothing, and the last of the first half before the second.
  if (half > 0) store<u8>(out, load<u8>(pixels));
  if (pairs > 0) store<u8>(odds, u8(load<u8>(pixels + 1) - load<u8>(pixels + 2 * (half - 1)) + 128));
}

/** The bytes, each moved on by one, behind the last of those before. */
function afterLast(before: v128, bytes: v128): v128 {
  return i8x16.shuffle(before, bytes, 15, 16, 17, 18, 19, 20, 21, 22, 23, 24, 25, 26, 27, 28, 29, 30);
}

/**
 * Puts the bytes of two rows in turn.
 *
 * @param out twice `count` bytes, and 32 that may be overwritten
 */
export function pairBytes(first: usize, second: usize, out: usize, count: i32): void {
  for (let i = 0; i < count; i += 16) {
    const ones = v128.load(first + i);
    const others = v128.load(second + i);
    v128.store(out + 2 * i, i8x16.shuffle(ones, others, 0, 16, 1, 17, 2, 18, 3, 19, 4, 20, 5, 21, 6, 22, 7, 23));
    v128.store(out + 2 * i, i8x16.shuffle(ones, others, 8, 24, 9, 25, 10, 26, 11, 27, 12, 28, 13, 29, 14, 30, 15, 31), 16);
  }
}

function sumOf(bytes: usize, count: i32): u32 {
  let sums = i8x16.splat(0);
  let i = 0;
  for (; i + 16 <= count; i += 16) sums = i8x16.add(sums, v128.load(bytes + i));
  let total: u32 = i8x16.extract_lane_u(lastByte(runningSums(sums)), 0);
  for (; i < count; i++) total += load<u8>(bytes + i);
  return total;
}

/**
 * Adds the values of half floats (IEEE 754 binary16), each times a weight, to 32-bit floats.
 *
 * @param halves `count` of them, rounded up to fours
 */
export function addHalves(halves: usize, count: i32, weight: f32, out: usize): void {
  const weights = f32x4.splat(weight);
  // Shifted to a float's place the exponent is too small by 112, also of subnormal halves: a product puts it right.
  const scale = f32x4.splat(5.192296858534828e33);
  const infinite = i32x4.splat(0x0f800000);
  const shifted = i32x4.splat(0x70000000);
  for (let i = 0; i < count; i += 4, halves += 8, out += 16) {
    const bits = v128.load16x4_u(halves);
    const magnitude = i32x4.shl(v128.and(bits, i32x4.splat(0x7fff)), 13);
    const finite = f32x4.mul(magnitude, scale);
    const other = i32x4.add(magnitude, shifted);
    const value = v128.bitselect(other, finite, i32x4.ge_s(magnitude, infinite));
    const signed = v128.or(value, i32x4.shl(v128.and(bits, i32x4.splat(0x8000)), 16));
    v128.store(out, f32x4.add(v128.load(out), f32x4.mul(signed, weights)));
  }
}

/** Four 32-bit floats as half floats (IEEE 754 binary16), rounded to the nearest, and to the even one where two are as near; in 32 bits each. */
function toHalf(values: v128): v128 {
  const magnitude = v128.and(values, i32x4.splat(0x7fffffff));
  const sign = v128.and(i32x4.shr_u(values, 16), i32x4.splat(0x8000));
  // 112 is what the exponents' zeros differ by; what is too large comes out as infinite.
  const even = v128.and(i32x4.shr_u(magnitude, 13), i32x4.splat(1));
  const normal = i32x4.shr_s(i32x4.add(magnitude, i32x4.add(even, i32x4.splat(0xfff - (112 << 23)))), 13);
  // Beside a half there is room for no more than a half float's smallest steps.
  const small = i32x4.sub(f32x4.add(magnitude, f32x4.splat(0.5)), i32x4.splat(0x3f000000));
  const finite = v128.bitselect(small, i32x4.min_s(normal, i32x4.splat(0x7c00)), i32x4.lt_s(magnitude, i32x4.splat(0x38800000)));
  const value = v128.bitselect(i32x4.splat(0x7e00), finite, i32x4.gt_s(magnitude, i32x4.splat(0x7f800000)));
  return v128.or(value, sign);
}

/** Rounds 32-bit floats to half floats. @param count rounded up to eights; so much is written */
export function roundToHalves(floats: usize, count: i32, out: usize): void {
  for (let i = 0; i < count; i += 8, floats += 32, out += 16) v128.store(out, i16x8.narrow_i32x4_u(toHalf(v128.load(floats)), toHalf(v128.load(floats, 16))));
}
