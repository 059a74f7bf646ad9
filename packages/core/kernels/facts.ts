// What is known of every channel of a frame: least, largest and summed value, and how many are no number, infinite,
// below zero, zero. Samples of several channels may lie between each other: with `stride` channels, every `stride`-th
// vector of 16 bytes has the same channel in the same lane, so each such set of vectors is walked on its own and its
// lanes are given to their channels at the end.

/** Places of a channel's figures in its row of eight. */
const MIN = 0;
const MAX = 1;
const SUM = 2;
const NAN = 3;
const INFINITE = 4;
const NEGATIVE = 5;
const ZERO = 6;

function put(results: usize, channel: i32, min: f64, max: f64, sum: f64, zero: f64): void {
  const row = results + channel * 64;
  store<f64>(row + MIN * 8, Math.min(load<f64>(row + MIN * 8), min));
  store<f64>(row + MAX * 8, Math.max(load<f64>(row + MAX * 8), max));
  add(row, SUM, sum);
  add(row, ZERO, zero);
}

function add(row: usize, place: i32, amount: f64): void {
  store<f64>(row + place * 8, load<f64>(row + place * 8) + amount);
}

/** Adds one sample, whatever its kind was. */
function putValue(results: usize, channel: i32, value: f64): void {
  const row = results + channel * 64;
  if (isNaN(value)) add(row, NAN, 1);
  else if (!isFinite(value)) add(row, INFINITE, 1);
  else {
    put(results, channel, value, value, value, value == 0 ? 1 : 0);
    if (value < 0) add(row, NEGATIVE, 1);
  }
}

/** Room for the lanes of some vectors while they are given to their channels. */
const lanes = memory.data(16 * 16);

/** Sums in eight bits and 16 bits must be emptied before they run over. */
const BLOCK_OF_BYTES = 128;
const BLOCK_OF_SHORTS = 8192;

/**
 * Samples of 8 bits.
 *
 * @param count samples of all channels, a multiple of `stride`
 * @param results eight numbers a channel, added to
 */
export function factsOfBytes(data: usize, count: i32, stride: i32, results: usize): void {
  factsOfIntegers<u8, u16>(data, count, stride, results, BLOCK_OF_BYTES);
}

/** Samples of 16 bits; otherwise as `factsOfBytes`. */
export function factsOfShorts(data: usize, count: i32, stride: i32, results: usize): void {
  factsOfIntegers<u16, u32>(data, count, stride, results, BLOCK_OF_SHORTS);
}

/** @param block vectors after which the sums, which are twice as wide as the samples, are emptied */
function factsOfIntegers<Sample, Sum>(data: usize, count: i32, stride: i32, results: usize, block: i32): void {
  const size: i32 = sizeof<Sample>();
  const lanesOfVector = 16 / size;
  const groups = count / (lanesOfVector * stride);
  const none = v128.splat<Sample>(0);
  for (let vector = 0; vector < stride; vector++) {
    let least = i8x16.splat(-1);
    let largest = none;
    for (let start = 0; start < groups; start += block) {
      const end = min(groups, start + block);
      let low = none;
      let high = none;
      let zeros = none;
      for (let group = start; group < end; group++) {
        const samples = v128.load(data + 16 * (group * stride + vector));
        least = v128.min<Sample>(least, samples);
        largest = v128.max<Sample>(largest, samples);
        low = v128.add<Sum>(low, v128.extend_low<Sample>(samples));
        high = v128.add<Sum>(high, v128.extend_high<Sample>(samples));
        zeros = v128.sub<Sample>(zeros, v128.eq<Sample>(samples, none));
      }
      v128.store(lanes, least);
      v128.store(lanes, largest, 16);
      v128.store(lanes, low, 32);
      v128.store(lanes, high, 48);
      v128.store(lanes, zeros, 64);
      for (let lane = 0; lane < lanesOfVector; lane++) {
        const channel = (lanesOfVector * vector + lane) % stride;
        const at = lanes + lane * size;
        put(results, channel, load<Sample>(at), load<Sample>(at, 16), load<Sum>(lanes + 2 * lane * size, 32), load<Sample>(at, 64));
      }
    }
  }
  for (let i = groups * lanesOfVector * stride; i < count; i++) putValue(results, i % stride, load<Sample>(data + i * size));
}

/** What 2 to the power of 112 does to a half's bits read as a float's: it mends the exponent, also of the smallest. */
const HALF_TO_FLOAT: f32 = reinterpret<f32>(0x77800000);

function floatOf(half: u32): f64 {
  if ((half & 0x7c00) == 0x7c00) return half & 0x3ff ? NaN : half & 0x8000 ? -Infinity : Infinity;
  const size = reinterpret<f32>((half & 0x7fff) << 13) * HALF_TO_FLOAT;
  return half & 0x8000 ? -size : size;
}

/** Four halves in lanes of 32 bits, finite, as floats. */
function floatsOf(halves: v128): v128 {
  const sizes = f32x4.mul(i32x4.shl(v128.and(halves, i32x4.splat(0x7fff)), 13), f32x4.splat(HALF_TO_FLOAT));
  return v128.or(sizes, i32x4.shl(v128.and(halves, i32x4.splat(0x8000)), 16));
}

/** Turns a half's bits into an integer that is ordered as the halves are, and back. */
function ordered(halves: v128): v128 {
  return v128.xor(halves, v128.and(i16x8.shr_s(halves, 15), i16x8.splat(0x7fff)));
}

/** Halves; otherwise as `factsOfBytes`. */
export function factsOfHalves(data: usize, count: i32, stride: i32, results: usize): void {
  const groups = count / (8 * stride);
  for (let vector = 0; vector < stride; vector++) {
    let least = i16x8.splat(0x7fff);
    let largest = i16x8.splat(-0x8000);
    for (let start = 0; start < groups; start += BLOCK_OF_SHORTS) {
      const end = min(groups, start + BLOCK_OF_SHORTS);
      let sum01 = f64x2.splat(0);
      let sum23 = f64x2.splat(0);
      let sum45 = f64x2.splat(0);
      let sum67 = f64x2.splat(0);
      let nans = i16x8.splat(0);
      let infinites = i16x8.splat(0);
      let negatives = i16x8.splat(0);
      let zeros = i16x8.splat(0);
      for (let group = start; group < end; group++) {
        const bits = v128.load(data + 16 * (group * stride + vector));
        const size = v128.and(bits, i16x8.splat(0x7fff));
        const finite = i16x8.lt_s(size, i16x8.splat(0x7c00));
        const zero = i16x8.eq(size, i16x8.splat(0));
        nans = i16x8.sub(nans, i16x8.gt_s(size, i16x8.splat(0x7c00)));
        infinites = i16x8.sub(infinites, i16x8.eq(size, i16x8.splat(0x7c00)));
        zeros = i16x8.sub(zeros, zero);
        negatives = i16x8.sub(negatives, v128.andnot(v128.and(i16x8.shr_s(bits, 15), finite), zero));
        const order = ordered(bits);
        least = i16x8.min_s(least, v128.bitselect(order, i16x8.splat(0x7fff), finite));
        largest = i16x8.max_s(largest, v128.bitselect(order, i16x8.splat(-0x8000), finite));
        const numbers = v128.and(bits, finite);
        const low = floatsOf(i32x4.extend_low_i16x8_u(numbers));
        const high = floatsOf(i32x4.extend_high_i16x8_u(numbers));
        sum01 = f64x2.add(sum01, f64x2.promote_low_f32x4(low));
        sum23 = f64x2.add(sum23, f64x2.promote_low_f32x4(i32x4.shuffle(low, low, 2, 3, 2, 3)));
        sum45 = f64x2.add(sum45, f64x2.promote_low_f32x4(high));
        sum67 = f64x2.add(sum67, f64x2.promote_low_f32x4(i32x4.shuffle(high, high, 2, 3, 2, 3)));
      }
      v128.store(lanes, ordered(least));
      v128.store(lanes, ordered(largest), 16);
      v128.store(lanes, nans, 32);
      v128.store(lanes, infinites, 48);
      v128.store(lanes, negatives, 64);
      v128.store(lanes, zeros, 80);
      v128.store(lanes, sum01, 96);
      v128.store(lanes, sum23, 112);
      v128.store(lanes, sum45, 128);
      v128.store(lanes, sum67, 144);
      for (let lane = 0; lane < 8; lane++) {
        const channel = (8 * vector + lane) % stride;
        const row = results + channel * 64;
        const at = lanes + 2 * lane;
        add(row, NAN, load<u16>(at, 32));
        add(row, INFINITE, load<u16>(at, 48));
        add(row, NEGATIVE, load<u16>(at, 64));
        const lowest = load<u16>(at);
        // A lane that has met no number so far still holds what it began with.
        if ((lowest & 0x7c00) == 0x7c00) continue;
        put(results, channel, floatOf(lowest), floatOf(load<u16>(at, 16)), load<f64>(lanes + 8 * lane, 96), load<u16>(at, 80));
      }
    }
  }
  for (let i = groups * 8 * stride; i < count; i++) putValue(results, i % stride, floatOf(load<u16>(data + 2 * i)));
}

/** Floats of 32 bits; otherwise as `factsOfBytes`. */
export function factsOfFloats(data: usize, count: i32, stride: i32, results: usize): void {
  const groups = count / (4 * stride);
  const infinity = f32x4.splat(Infinity);
  for (let vector = 0; vector < stride; vector++) {
    let least = infinity;
    let largest = f32x4.neg(infinity);
    let sum01 = f64x2.splat(0);
    let sum23 = f64x2.splat(0);
    let nans = i32x4.splat(0);
    let infinites = i32x4.splat(0);
    let negatives = i32x4.splat(0);
    let zeros = i32x4.splat(0);
    for (let group = 0; group < groups; group++) {
      const values = v128.load(data + 16 * (group * stride + vector));
      const sizes = f32x4.abs(values);
      const finite = f32x4.lt(sizes, infinity);
      nans = i32x4.sub(nans, f32x4.ne(values, values));
      infinites = i32x4.sub(infinites, f32x4.eq(sizes, infinity));
      zeros = i32x4.sub(zeros, f32x4.eq(values, f32x4.splat(0)));
      negatives = i32x4.sub(negatives, v128.and(finite, f32x4.lt(values, f32x4.splat(0))));
      least = f32x4.pmin(least, v128.bitselect(values, infinity, finite));
      largest = f32x4.pmax(largest, v128.bitselect(values, f32x4.neg(infinity), finite));
      const numbers = v128.and(values, finite);
      sum01 = f64x2.add(sum01, f64x2.promote_low_f32x4(numbers));
      sum23 = f64x2.add(sum23, f64x2.promote_low_f32x4(i32x4.shuffle(numbers, numbers, 2, 3, 2, 3)));
    }
    v128.store(lanes, least);
    v128.store(lanes, largest, 16);
    v128.store(lanes, nans, 32);
    v128.store(lanes, infinites, 48);
    v128.store(lanes, negatives, 64);
    v128.store(lanes, zeros, 80);
    v128.store(lanes, sum01, 96);
    v128.store(lanes, sum23, 112);
    for (let lane = 0; lane < 4; lane++) {
      const channel = (4 * vector + lane) % stride;
      const row = results + channel * 64;
      const at = lanes + 4 * lane;
      add(row, NAN, load<u32>(at, 32));
      add(row, INFINITE, load<u32>(at, 48));
      add(row, NEGATIVE, load<u32>(at, 64));
      put(results, channel, load<f32>(at), load<f32>(at, 16), load<f64>(lanes + 8 * lane, 96), load<u32>(at, 80));
    }
  }
  for (let i = groups * 4 * stride; i < count; i++) putValue(results, i % stride, load<f32>(data + 4 * i));
}
