import { PackedDataError } from '../errors.ts';
/**
 * Whether a stream is LZW as writers before version 6 of the specification understood it: codes with their lowest bit
 * first. Both begin with the code 256, which stands as 0x80 0x00 today and stood as 0x00 0x01 then.
 */
export function isOldLzw(packed: Uint8Array): boolean {
  return packed.length >= 2 && packed[0] === 0 && (packed[1] & 1) === 1;
}

/**
 * Undoes TIFF's LZW (section 13): codes of 9 to 12 bits, the highest bit first, growing one code
 * early; 256 clears the table, 257 ends.
 *
 * @throws PackedDataError when the stream is damaged
 */
export function unpackLzw(packed: Uint8Array, size: number): Uint8Array {
  const out = new Uint8Array(size);
  // A code's bytes are those of an earlier place in the output and one more.
  const start = new Int32Array(4096);
  const length = new Int32Array(4096);
  let next = 258;
  let width = 9;
  let buffer = 0;
  let held = 0;
  let written = 0;
  let previousStart = -1;
  let previousLength = 0;
  for (let position = 0; written < size;) {
    while (held < width) {
      if (position >= packed.length) throw new PackedDataError(`it gives ${written} bytes where ${size} are needed`);
      buffer = ((buffer << 8) | packed[position++]) & 0xffffff;
      held += 8;
    }
    const code = (buffer >> (held - width)) & ((1 << width) - 1);
    held -= width;
    if (code === 257) break;
    if (code === 256) {
      next = 258;
      width = 9;
      previousStart = -1;
      continue;
    }
    const here = written;
    if (code < 256) out[written++] = code;
    else {
      const known = code < next;
      if (previousStart < 0 || (!known && code !== next)) throw new PackedDataError('it holds a code that was never made');
      const from = known ? start[code] : previousStart;
      const count = known ? length[code] : previousLength + 1;
      if (written + count > size) throw new PackedDataError('it gives too many bytes');
      // Byte by byte: a code may reach into what it is just making.
      for (let i = 0; i < count; i++) out[written++] = out[from + i];
    }
    if (previousStart >= 0 && next < 4096) {
      start[next] = previousStart;
      length[next] = previousLength + 1;
      next++;
      if (next + 1 >= 1 << width && width < 12) width++;
    }
    previousStart = here;
    previousLength = written - here;
  }
  if (written !== size) throw new PackedDataError(`it gives ${written} bytes where ${size} are needed`);
  return out;
}

/** Undoes PackBits (section 9). @throws PackedDataError when the stream is damaged */
export function unpackBits(packed: Uint8Array, size: number): Uint8Array {
  const out = new Uint8Array(size);
  let to = 0;
  for (let from = 0; from < packed.length && to < size;) {
    const count = (packed[from++] << 24) >> 24;
    if (count === -128) continue;
    const length = count < 0 ? 1 - count : count + 1;
    if (to + length > size || from + (count < 0 ? 1 : length) > packed.length) throw new PackedDataError('a run goes over its end');
    if (count < 0) out.fill(packed[from++], to, to + length);
    else {
      out.set(packed.subarray(from, from + length), to);
      from += length;
    }
    to += length;
  }
  if (to !== size) throw new PackedDataError(`it gives ${to} bytes where ${size} are needed`);
  return out;
}
