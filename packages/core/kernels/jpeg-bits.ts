// The bits of a JPEG's scan, the highest of each byte first, and its Huffman codes (ITU-T T.81, sections F.2.2.3 to 5).

/** A table of codes: 512 entries of 16 bits by the next nine bits (value times 16 plus length, 0 where longer), then
 *  first, count and offset of each length from 0 to 16, of 32 bits, then the values. */
const CODE_FIRST: usize = 1024;
const CODE_COUNT: usize = 1024 + 68;
const CODE_OFFSET: usize = 1024 + 136;
const CODE_VALUES: usize = 1024 + 204;

/** What `symbol` gives for bits that are none of its table's codes. */
export const NO_SYMBOL: i32 = -1;

/** The lowest, and the highest, bit of each of eight bytes. */
const LOWEST: u64 = u64.MAX_VALUE / 255;
const HIGHEST: u64 = LOWEST << 7;

let bytes: usize = 0;
let end: i32 = 0;
let position: i32 = 0;
/** The lowest `held` bits are those to come; the lowest `missing` of them were made up. */
let buffer: u64 = 0;
let held: i32 = 0;
let missing: i32 = 0;

export function beginBits(data: usize, from: i32, to: i32): void {
  bytes = data;
  position = from;
  end = to;
  dropBits();
}

/** Forgets what was read ahead. */
function dropBits(): void {
  buffer = 0;
  held = 0;
  missing = 0;
}

export function bitPosition(): i32 {
  return position;
}

/** Whether more bits were taken than there were. */
export function isPastEnd(): bool {
  return missing > held;
}

function fill(): void {
  if (position + 8 <= end) {
    const next = load<u64>(bytes + usize(position));
    // No byte of eight is 0xff: none of them ends the scan or hides another (Mycroft's test for a zero byte, of the inverse).
    if (((~next - LOWEST) & next & HIGHEST) == 0) {
      const count = (63 - held) >> 3;
      buffer = (buffer << (8 * count)) | (bswap<u64>(next) >> (64 - 8 * count));
      held += 8 * count;
      position += count;
      return;
    }
  }
  while (held <= 48) {
    let byte: u64 = 0;
    if (position >= end) missing += 8;
    else {
      byte = u64(load<u8>(bytes + usize(position)));
      if (byte != 0xff) position++;
      else if (position + 1 < end && load<u8>(bytes + usize(position + 1)) == 0) position += 2;
      else {
        // A marker: nothing comes behind it.
        byte = 0;
        missing += 8;
      }
    }
    buffer = (buffer << 8) | byte;
    held += 8;
  }
}

export function take(count: i32): i32 {
  if (count == 0) return 0;
  if (held < count) fill();
  held -= count;
  return i32(buffer >> held) & ((1 << count) - 1);
}

/** A value of `count` bits, of which the upper half are the positive ones (section F.2.2.1, EXTEND). */
export function signed(count: i32): i32 {
  const value = take(count);
  return value < 1 << (count - 1) ? value - (1 << count) + 1 : value;
}

/** The next code's value, or NO_SYMBOL. */
export function symbol(table: usize): i32 {
  if (held < 16) fill();
  const entry = i32(load<u16>(table + 2 * (usize(buffer >> (held - 9)) & 511)));
  if (entry == 0) return longSymbol(table);
  held -= entry & 15;
  return entry >> 4;
}

function longSymbol(table: usize): i32 {
  for (let length = 10; length <= 16; length++) {
    const at = table + 4 * usize(length);
    const place = (i32(buffer >> (held - length)) & ((1 << length) - 1)) - load<i32>(at, CODE_FIRST);
    if (place >= 0 && place < load<i32>(at, CODE_COUNT)) {
      held -= length;
      return i32(load<u8>(table + CODE_VALUES + usize(load<i32>(at, CODE_OFFSET) + place)));
    }
  }
  return NO_SYMBOL;
}

/**
 * Reads all but the mean of a block (section F.2.2.2): what it is for, most of a file's bits, and so written out with
 * the bits at hand.
 *
 * @param order where the coefficients belong, a byte each
 * @returns 0, NO_SYMBOL, or 1 where it goes beyond the block's end
 */
export function readBlock(at: usize, table: usize, order: usize): i32 {
  let bits = buffer;
  let count = held;
  let k = 1;
  while (k < 64) {
    // A code and its value have 31 bits at most.
    if (count < 31) {
      buffer = bits;
      held = count;
      fill();
      bits = buffer;
      count = held;
    }
    let code = i32(load<u16>(table + 2 * (usize(bits >> (count - 9)) & 511)));
    if (code != 0) {
      count -= code & 15;
      code >>= 4;
    } else {
      held = count;
      code = longSymbol(table);
      if (code == NO_SYMBOL) return NO_SYMBOL;
      count = held;
    }
    const length = code & 15;
    if (length == 0) {
      if (code != 0xf0) break;
      k += 16;
      if (k > 64) break;
      continue;
    }
    k += code >> 4;
    if (k > 63) {
      k = 65;
      break;
    }
    count -= length;
    const value = i32(bits >> count) & ((1 << length) - 1);
    store<i16>(at + 2 * usize(load<u8>(order + k++)), i16(value < 1 << (length - 1) ? value - (1 << length) + 1 : value));
  }
  buffer = bits;
  held = count;
  return k > 64 ? 1 : 0;
}

/** Whole bytes that were read ahead and nobody asked for; a scan may be filled up with ones, or with zeros. */
function unused(): i32 {
  let count = 0;
  for (let at = missing; at + 8 <= held; at += 8) {
    const byte = (buffer >> at) & 0xff;
    if (byte != 0 && byte != 0xff) count++;
  }
  return count;
}

function isRestart(marker: u32): bool {
  return marker >= 0xd0 && marker <= 0xd7;
}

/**
 * Goes on behind the restart marker that must come now (section B.2.1).
 *
 * @returns 0, 1 where pixel data comes before it, 2 where it is not there
 */
export function passRestart(number: u32): i32 {
  const ahead = unused();
  dropBits();
  if (ahead > 0) return 1;
  const marker: u32 = position + 1 < end ? load<u8>(bytes + usize(position + 1)) : 0;
  if (position >= end || load<u8>(bytes + usize(position)) != 0xff || !isRestart(marker) || (marker & 7) != number) return 2;
  position += 2;
  return 0;
}

/** Bytes of pixel data that nobody asked for, up to the next marker; zeros and fill bytes do not count. */
export function leftOver(): i32 {
  let count = unused();
  while (position < end - 1) {
    const byte = load<u8>(bytes + usize(position));
    const next = load<u8>(bytes + usize(position + 1));
    if (byte == 0xff && next != 0 && next != 0xff && !isRestart(next)) break;
    if (byte != 0 && byte != 0xff) count++;
    position++;
  }
  return count;
}
