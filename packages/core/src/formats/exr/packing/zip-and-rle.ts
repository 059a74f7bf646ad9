import { PackedDataError } from '../../errors.ts';
import { joinHalves, splitHalves } from '../../../kernels/index.ts';
import type { CodecTools, EncoderTools } from '../../frame.ts';

/**
 * Undoes zip and zips: inflate, then the differences, then the two halves that hold the even and
 * the odd bytes.
 *
 * @param size bytes that must come out
 * @returns bytes that are good until the next chunk is unpacked
 */
export function unpackZip(packed: Uint8Array, size: number, tools: CodecTools): Uint8Array {
  const split = tools.inflate(packed, size);
  if (split.length !== size) throw new PackedDataError(`it gives ${split.length} bytes where ${size} are needed`);
  return joinHalves(split);
}

/** Undoes rle: counted runs and literals, then differences and halves as with zip; the bytes are good as long. */
export function unpackRle(packed: Uint8Array, size: number): Uint8Array {
  return joinHalves(expandRuns(packed, size));
}

/** Counted runs and literals: a count from 0 to 127 repeats the next byte once more often, a negative one copies bytes. */
export function expandRuns(packed: Uint8Array, size: number): Uint8Array {
  const split = new Uint8Array(size);
  let from = 0;
  let to = 0;
  while (from < packed.length) {
    const count = (packed[from++] << 24) >> 24;
    if (count < 0) {
      if (from - count > packed.length || to - count > size) throw new PackedDataError('a literal runs over its end');
      split.set(packed.subarray(from, from - count), to);
      from -= count;
      to -= count;
    } else {
      if (from >= packed.length || to + count + 1 > size) throw new PackedDataError('a run goes over its end');
      split.fill(packed[from++], to, to + count + 1);
      to += count + 1;
    }
  }
  if (to !== size) throw new PackedDataError(`it gives ${to} bytes where ${size} are needed`);
  return split;
}

/** The halves of the even and the odd bytes, as differences, deflated. */
export function deflateHalves(bytes: Uint8Array, tools: EncoderTools): Uint8Array {
  return tools.deflate(splitHalves(bytes));
}

/** Packs a chunk with zip or zips; null when that would not make it smaller. */
export function packZip(pixels: Uint8Array, tools: EncoderTools): Uint8Array | null {
  const packed = deflateHalves(pixels, tools);
  return packed.length < pixels.length ? packed : null;
}

/** Packs a chunk with run lengths; null when that would not make it smaller. */
export function packRle(pixels: Uint8Array): Uint8Array | null {
  const packed = packRuns(splitHalves(pixels));
  return packed.length < pixels.length ? packed : null;
}

const SHORTEST_RUN = 3;
const LONGEST_RUN = 128;
const LONGEST_LITERAL = 127;

/** The inverse of expandRuns. */
export function packRuns(bytes: Uint8Array): Uint8Array {
  // At worst a count for every so many literal bytes.
  const out = new Uint8Array(bytes.length + Math.ceil(bytes.length / LONGEST_LITERAL) + 1);
  let [from, to] = [0, 0];
  const runAt = (start: number) => {
    let end = start + 1;
    while (end < bytes.length && bytes[end] === bytes[start] && end - start < LONGEST_RUN) end++;
    return end - start;
  };
  while (from < bytes.length) {
    const run = runAt(from);
    if (run >= SHORTEST_RUN) {
      out[to++] = run - 1;
      out[to++] = bytes[from]!;
      from += run;
      continue;
    }
    let end = from;
    while (end < bytes.length && end - from < LONGEST_LITERAL && runAt(end) < SHORTEST_RUN) end++;
    out[to++] = from - end;
    out.set(bytes.subarray(from, end), to);
    to += end - from;
    from = end;
  }
  return out.subarray(0, to);
}
