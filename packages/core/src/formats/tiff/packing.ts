/**
 * Undoes TIFF's LZW (section 13): codes of 9 to 12 bits, the highest bit first, growing one code
 * early; 256 clears the table, 257 ends.
 *
 * @throws Error when the stream is damaged
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
      if (position >= packed.length) throw new Error(`it gives ${written} bytes where ${size} are needed`);
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
      if (previousStart < 0 || (!known && code !== next)) throw new Error('it holds a code that was never made');
      const from = known ? start[code] : previousStart;
      const count = known ? length[code] : previousLength + 1;
      if (written + count > size) throw new Error('it gives too many bytes');
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
  if (written !== size) throw new Error(`it gives ${written} bytes where ${size} are needed`);
  return out;
}

/** Undoes PackBits (section 9). @throws Error when the stream is damaged */
export function unpackBits(packed: Uint8Array, size: number): Uint8Array {
  const out = new Uint8Array(size);
  let to = 0;
  for (let from = 0; from < packed.length && to < size;) {
    const count = (packed[from++] << 24) >> 24;
    if (count === -128) continue;
    const length = count < 0 ? 1 - count : count + 1;
    if (to + length > size || from + (count < 0 ? 1 : length) > packed.length) throw new Error('a run goes over its end');
    if (count < 0) out.fill(packed[from++], to, to + length);
    else {
      out.set(packed.subarray(from, from + length), to);
      from += length;
    }
    to += length;
  }
  if (to !== size) throw new Error(`it gives ${to} bytes where ${size} are needed`);
  return out;
}

/** Undoes the float predictor (Technical Note 3): a row's bytes plane by plane, the highest first, as differences. */
export function undoFloatPredictor(row: Uint8Array, samples: number, sampleBytes: number, littleEndian: boolean): void {
  for (let i = samples; i < row.length; i++) row[i] += row[i - samples];
  // Not slice(): where the bytes are a Node buffer, that would be a view.
  const planes = new Uint8Array(row);
  const count = row.length / sampleBytes;
  for (let b = 0; b < sampleBytes; b++) {
    const to = littleEndian ? sampleBytes - 1 - b : b;
    for (let i = 0; i < count; i++) row[i * sampleBytes + to] = planes[b * count + i];
  }
}
