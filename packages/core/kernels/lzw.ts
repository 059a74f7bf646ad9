// TIFF's LZW (TIFF 6.0, section 13): codes of 9 to 12 bits, the highest bit first, growing one code early; 256 clears
// the table, 257 ends.

/** Where each code's bytes stand in the output, and how many they are: those of an earlier place and one more. */
const starts = memory.data(4096 * 4, 16);
const lengths = memory.data(4096 * 4, 16);

/** What can be wrong with a stream, as negative results. */
const TOO_SHORT = -1;
const NEVER_MADE = -2;
const TOO_LONG = -3;

/**
 * Unpacks a stream.
 *
 * @param out `size` bytes, and 16 that may be overwritten
 * @returns the bytes written, all of `size`, or what is wrong
 */
export function unpackLzw(packed: usize, length: i32, out: usize, size: i32): i32 {
  let next = 258;
  let width = 9;
  let buffer: u64 = 0;
  let held = 0;
  let position = 0;
  let written = 0;
  let previous = -1;
  let previousLength = 0;
  while (written < size) {
    while (held < width) {
      if (position >= length) return TOO_SHORT;
      buffer = (buffer << 8) | load<u8>(packed + position++);
      held += 8;
    }
    held -= width;
    const code = i32(buffer >> held) & ((1 << width) - 1);
    if (code == 257) break;
    if (code == 256) {
      next = 258;
      width = 9;
      previous = -1;
      continue;
    }
    const here = written;
    if (code < 256) store<u8>(out + written++, u8(code));
    else {
      const known = code < next;
      if (previous < 0 || (!known && code != next)) return NEVER_MADE;
      const from = known ? load<i32>(starts + 4 * code) : previous;
      const count = known ? load<i32>(lengths + 4 * code) : previousLength + 1;
      if (written + count > size) return TOO_LONG;
      // A code may reach into what it is just making: then byte by byte.
      if (from + 8 <= written) for (let i = 0; i < count; i += 8) store<u64>(out + written + i, load<u64>(out + from + i));
      else for (let i = 0; i < count; i++) store<u8>(out + written + i, load<u8>(out + from + i));
      written += count;
    }
    if (previous >= 0 && next < 4096) {
      store<i32>(starts + 4 * next, previous);
      store<i32>(lengths + 4 * next, previousLength + 1);
      next++;
      if (next + 1 >= 1 << width && width < 12) width++;
    }
    previous = here;
    previousLength = written - here;
  }
  return written == size ? written : TOO_SHORT;
}
