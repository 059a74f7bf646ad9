// The Huffman coding that piz and dwa share (OpenEXR, ImfHuf). The tables are made in
// ../src/formats/exr/packing/huffman.ts.

/** Codes are looked up by so many bits; longer ones are followed bit by bit. */
const TABLE_BITS = 14;
const LONGEST_CODE = 58;

/** What can be wrong with a block, as results other than 0. */
const TOO_MANY = 1;
const RUN_OVER = 2;
const NO_CODE = 3;
const TOO_FEW = 4;

/**
 * Decodes a block.
 *
 * @param packed the bits, with 16 bytes of zeros behind them
 * @param bits how many there are
 * @param table by the next 14 bits: symbol times 64 plus the code's length, 0 where it is longer
 * @param first first code of each length, of 64 bits; `count` and `offset` how many, and where their symbols begin in `sorted`
 * @param runSymbol stands for the value before, as often as the next 8 bits say
 * @param size values that must come out, of 16 bits
 */
export function unpackHuffman(
  packed: usize,
  bits: i64,
  table: usize,
  first: usize,
  count: usize,
  offset: usize,
  sorted: usize,
  runSymbol: i32,
  out: usize,
  size: i32,
): i32 {
  let buffer: u64 = 0;
  let held = 0;
  let at = packed;
  const end = packed + usize((bits + 7) >> 3) + 8;
  let used: i64 = 0;
  let written = 0;
  while (used < bits) {
    // Bits are taken from the top of the buffer; it is filled up to more than any short code with its run.
    if (held <= 32) {
      if (at < end) buffer |= u64(bswap<u32>(load<u32>(at))) << (32 - held);
      at += 4;
      held += 32;
    }
    const entry = load<u32>(table + 4 * usize(buffer >> (64 - TABLE_BITS)));
    let symbol: i32;
    if (entry != 0) {
      const length = i32(entry & 63);
      symbol = i32(entry >> 6);
      buffer <<= length;
      held -= length;
      used += length;
    } else {
      let code = buffer >> (64 - TABLE_BITS);
      buffer <<= TABLE_BITS;
      held -= TABLE_BITS;
      symbol = -1;
      let length = TABLE_BITS + 1;
      for (; length <= LONGEST_CODE; length++) {
        if (held < 1) {
          if (at < end) buffer |= u64(bswap<u32>(load<u32>(at))) << 32;
          at += 4;
          held += 32;
        }
        code = (code << 1) | (buffer >> 63);
        buffer <<= 1;
        held--;
        const base = load<u64>(first + 8 * length);
        if (code >= base && code - base < u64(load<u32>(count + 4 * length))) {
          symbol = i32(load<u32>(sorted + 4 * (usize(load<u32>(offset + 4 * length)) + usize(code - base))));
          break;
        }
      }
      if (symbol < 0) return NO_CODE;
      used += length;
    }
    if (symbol != runSymbol) {
      if (written >= size) return TOO_MANY;
      store<u16>(out + 2 * written++, u16(symbol));
      continue;
    }
    if (held < 8) {
      if (at < end) buffer |= u64(bswap<u32>(load<u32>(at))) << (32 - held);
      at += 4;
      held += 32;
    }
    const run = i32(buffer >> 56);
    buffer <<= 8;
    held -= 8;
    used += 8;
    if (written == 0 || written + run > size) return RUN_OVER;
    const value = load<u16>(out + 2 * (written - 1));
    for (let i = 0; i < run; i++) store<u16>(out + 2 * written++, value);
  }
  return used == bits && written == size ? 0 : TOO_FEW;
}
