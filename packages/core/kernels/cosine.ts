// The 8 x 8 cosine blocks of dwa (OpenEXR, ImfDwaCompressor): coefficients as halves, runs of zeros counted; a colour
// transform over three channels; a table from the perceptual curve back to linear.

/** Where a coefficient of the zigzag (ITU-T T.81, figure A.6) belongs, in a block that lies on its side. */
const places = memory.data<u8>([
  0, 8, 1, 2, 9, 16, 24, 17, 10, 3, 4, 11, 18, 25, 32, 40, 33, 26, 19, 12, 5, 6, 13, 20, 27, 34, 41, 48, 56, 49, 42, 35, 28, 21, 14, 7, 15, 22, 29, 36, 43, 50,
  57, 58, 51, 44, 37, 30, 23, 31, 38, 45, 52, 59, 60, 53, 46, 39, 47, 54, 61, 62, 55, 63,
]);

/** Three blocks of 64 floats. */
const blocks = memory.data(3 * 64 * 4, 16);
const BLOCK_BYTES: usize = 256;

/** What 2 to the power of 112 does to a half's bits read as a float's: it mends the exponent, also of the smallest. */
const HALF_TO_FLOAT: f32 = reinterpret<f32>(0x77800000);

function floatOf(half: u32): f32 {
  const sign = (half & 0x8000) << 16;
  if ((half & 0x7c00) == 0x7c00) return reinterpret<f32>(sign | 0x7f800000 | ((half & 0x3ff) << 13));
  return reinterpret<f32>(reinterpret<u32>(reinterpret<f32>((half & 0x7fff) << 13) * HALF_TO_FLOAT) | sign);
}

/** Four floats as halves in lanes of 32 bits: to the nearest, ties to even; what is too large becomes infinite. */
function halvesOf(values: v128): v128 {
  const sign = v128.and(i32x4.shr_u(values, 16), i32x4.splat(0x8000));
  const size = v128.and(values, i32x4.splat(0x7fffffff));
  // Normal ones: half of the last place that is kept, and one more where that one is odd.
  const odd = v128.and(i32x4.shr_u(size, 13), i32x4.splat(1));
  const normal = i32x4.shr_u(i32x4.add(i32x4.add(size, i32x4.splat(0xfff - (112 << 23))), odd), 13);
  // Small ones: added to a number whose last place is a half's smallest step, the float itself rounds.
  const magic = i32x4.splat(126 << 23);
  const small = i32x4.sub(f32x4.add(size, magic), magic);
  const finite = v128.bitselect(small, normal, i32x4.lt_s(size, i32x4.splat(113 << 23)));
  const large = v128.bitselect(i32x4.splat(0x7e00), i32x4.splat(0x7c00), i32x4.gt_s(size, i32x4.splat(0x7f800000)));
  return v128.or(sign, v128.bitselect(large, finite, i32x4.ge_s(size, i32x4.splat(0x47800000))));
}

/**
 * Reads one block's coefficients, on its side.
 *
 * @returns the next place in the codes; 0 where they end too early. `only` in the block's first place alone tells by
 *   the first code
 */
function readBlock(block: usize, lowest: u32, codes: usize, end: usize): usize {
  for (let i = 0; i < 16; i++) v128.store(block + 16 * i, i32x4.splat(0));
  store<f32>(block, floatOf(lowest));
  let at = codes;
  for (let k = 1; k < 64;) {
    if (at >= end) return 0;
    const code = u32(load<u16>(at));
    at += 2;
    if (code == 0xff00) break;
    if (code >> 8 == 0xff) k += i32(code & 0xff);
    else store<f32>(block + 4 * usize(load<u8>(places + k++)), floatOf(code));
  }
  return at;
}

// Half of the cosine of so many sixteenths of pi.
const C1: f32 = 0.4903926402016152;
const C2: f32 = 0.46193976625564337;
const C3: f32 = 0.4157348061512726;
const C4: f32 = 0.3535533905932738;
const C5: f32 = 0.27778511650980114;
const C6: f32 = 0.19134171618254492;
const C7: f32 = 0.09754516100806417;

/** One pass of the inverse transform down the columns of a block, four of them at a time: even and odd rows apart. */
function pass(block: usize): void {
  passHalf(block);
  passHalf(block + 16);
}

function passHalf(b: usize): void {
  const x0 = v128.load(b);
  const x1 = v128.load(b, 32);
  const x2 = v128.load(b, 64);
  const x3 = v128.load(b, 96);
  const x4 = v128.load(b, 128);
  const x5 = v128.load(b, 160);
  const x6 = v128.load(b, 192);
  const x7 = v128.load(b, 224);
  // Most blocks have low frequencies alone: what would be times and plus zero is left out.
  if (!v128.any_true(v128.or(v128.or(x4, x5), v128.or(x6, x7)))) {
    const even = times(x0, C4);
    const even1 = times(x2, C2);
    const even2 = times(x2, C6);
    return put(
      b,
      f32x4.add(even, even1),
      f32x4.add(even, even2),
      f32x4.sub(even, even2),
      f32x4.sub(even, even1),
      f32x4.add(times(x1, C1), times(x3, C3)),
      f32x4.sub(times(x1, C3), times(x3, C7)),
      f32x4.sub(times(x1, C5), times(x3, C1)),
      f32x4.sub(times(x1, C7), times(x3, C5)),
    );
  }
  const sum = times(f32x4.add(x0, x4), C4);
  const difference = times(f32x4.sub(x0, x4), C4);
  const even1 = f32x4.add(times(x2, C2), times(x6, C6));
  const even2 = f32x4.sub(times(x2, C6), times(x6, C2));
  put(
    b,
    f32x4.add(sum, even1),
    f32x4.add(difference, even2),
    f32x4.sub(difference, even2),
    f32x4.sub(sum, even1),
    f32x4.add(f32x4.add(times(x1, C1), times(x3, C3)), f32x4.add(times(x5, C5), times(x7, C7))),
    f32x4.sub(f32x4.sub(times(x1, C3), times(x3, C7)), f32x4.add(times(x5, C1), times(x7, C5))),
    f32x4.add(f32x4.sub(times(x1, C5), times(x3, C1)), f32x4.add(times(x5, C7), times(x7, C3))),
    f32x4.add(f32x4.sub(times(x1, C7), times(x3, C5)), f32x4.sub(times(x5, C3), times(x7, C1))),
  );
}

/** The even sums with the odd ones added, and from the other end taken away. */
function put(b: usize, e0: v128, e1: v128, e2: v128, e3: v128, odd0: v128, odd1: v128, odd2: v128, odd3: v128): void {
  v128.store(b, f32x4.add(e0, odd0));
  v128.store(b, f32x4.add(e1, odd1), 32);
  v128.store(b, f32x4.add(e2, odd2), 64);
  v128.store(b, f32x4.add(e3, odd3), 96);
  v128.store(b, f32x4.sub(e3, odd3), 128);
  v128.store(b, f32x4.sub(e2, odd2), 160);
  v128.store(b, f32x4.sub(e1, odd1), 192);
  v128.store(b, f32x4.sub(e0, odd0), 224);
}

function times(values: v128, factor: f32): v128 {
  return f32x4.mul(values, f32x4.splat(factor));
}

/** Turns a quarter of a block on its side and puts it into the place of another, which comes to where it stood. */
function swapQuarters(a: usize, b: usize): void {
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

function turn(block: usize): void {
  swapQuarters(block, block);
  swapQuarters(block + 16, block + 128);
  swapQuarters(block + 144, block + 144);
}

/** Inverse of the BT.709 luma and chroma transform, with the format's own rounded factors. */
function toRgb(): void {
  for (let i: usize = 0; i < BLOCK_BYTES; i += 16) {
    const luma = v128.load(blocks + i);
    const blue = v128.load(blocks + BLOCK_BYTES + i);
    const red = v128.load(blocks + 2 * BLOCK_BYTES + i);
    v128.store(blocks + i, f32x4.add(luma, times(red, 1.5747)));
    v128.store(blocks + BLOCK_BYTES + i, f32x4.sub(f32x4.sub(luma, times(blue, 0.1873)), times(red, 0.4682)));
    v128.store(blocks + 2 * BLOCK_BYTES + i, f32x4.add(luma, times(blue, 1.8556)));
  }
}

/**
 * Decodes the blocks of one channel, or of three that share the colour transform.
 *
 * @param codes coefficients but for the lowest, of 16 bits, up to `end`
 * @param lowest the lowest of each block, channel after channel
 * @param channels 1 or 3
 * @param curve a table of 65,536 halves, or 0 for none
 * @param out the channels one behind the other, of `across` x `lines` halves
 * @returns where the codes go on; 0 where they end too early
 */
export function unpackCosine(codes: usize, end: usize, lowest: usize, channels: i32, across: i32, lines: i32, curve: usize, out: usize): usize {
  const blocksAcross = (across + 7) >> 3;
  const blocksDown = (lines + 7) >> 3;
  let at = codes;
  for (let by = 0; by < blocksDown; by++) {
    for (let bx = 0; bx < blocksAcross; bx++) {
      for (let c = 0; c < channels; c++) {
        const block = blocks + usize(c) * BLOCK_BYTES;
        at = readBlock(block, u32(load<u16>(lowest + 2 * usize((c * blocksDown + by) * blocksAcross + bx))), at, end);
        if (!at) return 0;
        pass(block);
        turn(block);
        pass(block);
      }
      if (channels == 3) toRgb();
      for (let c = 0; c < channels; c++) {
        const to = out + 2 * usize((c * lines + by * 8) * across + bx * 8);
        putBlock(blocks + usize(c) * BLOCK_BYTES, to, across, min(8, across - bx * 8), min(8, lines - by * 8), curve);
      }
    }
  }
  return at;
}

function putBlock(block: usize, to: usize, across: i32, width: i32, height: i32, curve: usize): void {
  for (let y = 0; y < height; y++) {
    const row = block + 32 * usize(y);
    const halves = i16x8.narrow_i32x4_u(halvesOf(v128.load(row)), halvesOf(v128.load(row, 16)));
    const line = to + 2 * usize(y * across);
    if (width == 8 && !curve) {
      v128.store(line, halves);
      continue;
    }
    v128.store(row, halves);
    if (width == 8) {
      store<u16>(line, looked(curve, row));
      store<u16>(line, looked(curve, row + 2), 2);
      store<u16>(line, looked(curve, row + 4), 4);
      store<u16>(line, looked(curve, row + 6), 6);
      store<u16>(line, looked(curve, row + 8), 8);
      store<u16>(line, looked(curve, row + 10), 10);
      store<u16>(line, looked(curve, row + 12), 12);
      store<u16>(line, looked(curve, row + 14), 14);
      continue;
    }
    // Values that go beyond the picture's edge are kept out of the next line.
    for (let x = 0; x < width; x++) {
      store<u16>(line + 2 * usize(x), curve ? looked(curve, row + 2 * usize(x)) : load<u16>(row + 2 * usize(x)));
    }
  }
}

function looked(curve: usize, at: usize): u16 {
  return load<u16>(curve + 2 * usize(load<u16>(at)));
}
