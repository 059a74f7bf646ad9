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

/** One value of 16 bits, a shift, and 15 differences of 6 bits: down the first column, then along the rows. */
function unpackBlock(at: usize): void {
  const shift = i32(load<u8>(at, 2)) >> 2;
  const bias = 0x20 << shift;
  store<u16>(block, bswap<u16>(load<u16>(at)));
  for (let i = 1, bit = 22; i < 16; i++, bit += 6) {
    const row = i < 4 ? i : (i - 4) & 3;
    const column = i < 4 ? 0 : ((i - 4) >> 2) + 1;
    const pair = i32(bswap<u16>(load<u16>(at + (bit >> 3))));
    const difference = (((pair >> (10 - (bit & 7))) & 0x3f) << shift) - bias;
    const before = i < 4 ? block + 2 * (row * 4 - 4) : block + 2 * (row * 4 + column - 1);
    store<u16>(block + 2 * (row * 4 + column), u16(i32(load<u16>(before)) + difference));
  }
}
