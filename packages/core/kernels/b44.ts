// b44 and b44a (OpenEXR, ImfB44Compressor): blocks of 4 x 4 halves in 14 bytes, or in 3 where all are the same.

const block = memory.data(16 * 2, 16);

/** A shift of 13 and more does not occur, and marks a block of one value. */
const FLAT = 13 << 2;

/**
 * Unpacks one channel's blocks.
 *
 * @param packed `length` bytes, and 8 more that may be read
 * @returns bytes used, or -1 where the stream ends inside a block
 */
export function unpackB44(packed: usize, length: i32, out: usize, across: i32, lines: i32): i32 {
  let from = 0;
  for (let y = 0; y < lines; y += 4) {
    for (let x = 0; x < across; x += 4) {
      if (from + 3 > length) return -1;
      const at = packed + from;
      const flat = i32(load<u8>(at, 2)) >= FLAT;
      if (!flat && from + 14 > length) return -1;
      if (flat) {
        const all = i16x8.splat(bswap<u16>(load<u16>(at)));
        v128.store(block, all);
        v128.store(block, all, 16);
      } else unpackBlock(at);
      from += flat ? 3 : 14;
      // Stored so that halves compare like integers: the sign inverted, negatives complemented.
      const low = restored(v128.load(block));
      const high = restored(v128.load(block, 16));
      const to = out + 2 * (y * across + x);
      if (x + 4 <= across && y + 4 <= lines) {
        v128.store64_lane(to, low, 0);
        v128.store64_lane(to + 2 * across, low, 1);
        v128.store64_lane(to + 4 * across, high, 0);
        v128.store64_lane(to + 6 * across, high, 1);
        continue;
      }
      v128.store(block, low);
      v128.store(block, high, 16);
      for (let row = 0; row < 4 && y + row < lines; row++)
        for (let column = 0; column < 4 && x + column < across; column++)
          store<u16>(to + 2 * (row * across + column), load<u16>(block + 2 * (row * 4 + column)));
    }
  }
  return from;
}

function restored(bits: v128): v128 {
  const negative = i16x8.shr_s(bits, 15);
  return v128.bitselect(v128.and(bits, i16x8.splat(0x7fff)), v128.not(bits), negative);
}

/**
 * One value of 16 bits, a shift of 6, and 15 differences of 6 bits: down the first column, then along the rows. Two
 * columns stand in a vector, so that a difference to the left is a vector moved by half.
 */
function unpackBlock(at: usize): void {
  const packed = v128.load(at);
  const shift = i32(load<u8>(at, 2)) >> 2;
  const bias = i16x8.splat(i16(i32(0x20) << shift));
  // The two bytes that hold a difference, their highest bits multiplied away.
  const first = i8x16.swizzle(packed, i8x16(-1, -1, 3, 2, 4, 3, 5, 4, 6, 5, 6, 5, 7, 6, 8, 7));
  const second = i8x16.swizzle(packed, i8x16(9, 8, 9, 8, 10, 9, 11, 10, 12, 11, 12, 11, 13, 12, 14, 13));
  const away = i16x8(1, 64, 16, 4, 1, 64, 16, 4);
  const none = i16x8.splat(0);
  let left = i16x8.sub(i16x8.shl(i16x8.shr_u(i16x8.mul(first, away), 10), shift), bias);
  let right = i16x8.sub(i16x8.shl(i16x8.shr_u(i16x8.mul(second, away), 10), shift), bias);
  left = i16x8.replace_lane(left, 0, i16(bswap<u16>(load<u16>(at))));
  left = i16x8.add(left, i16x8.shuffle(none, left, 0, 8, 9, 10, 0, 0, 0, 0));
  left = i16x8.add(left, i16x8.shuffle(none, left, 0, 0, 8, 9, 0, 0, 0, 0));
  left = i16x8.add(left, i16x8.shuffle(none, left, 0, 0, 0, 0, 8, 9, 10, 11));
  right = i16x8.add(right, i16x8.shuffle(none, left, 12, 13, 14, 15, 0, 0, 0, 0));
  right = i16x8.add(right, i16x8.shuffle(none, right, 0, 0, 0, 0, 8, 9, 10, 11));
  v128.store(block, i16x8.shuffle(left, right, 0, 4, 8, 12, 1, 5, 9, 13));
  v128.store(block, i16x8.shuffle(left, right, 2, 6, 10, 14, 3, 7, 11, 15), 16);
}
