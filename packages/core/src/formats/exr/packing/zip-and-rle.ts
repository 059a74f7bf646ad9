import { PackedDataError } from '../../errors.ts';
import { joinHalves } from '../../../kernels/index.ts';
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

function splitHalves(pixels: Uint8Array): Uint8Array {
  const size = pixels.length;
  const split = new Uint8Array(size);
  const half = (size + 1) >> 1;
  for (let i = 0; i < size; i++) split[i % 2 === 0 ? i >> 1 : half + (i >> 1)] = pixels[i];
  for (let i = size - 1; i > 0; i--) split[i] = split[i] - split[i - 1] + 128;
  return split;
}

/** Packs a chunk with zip or zips; null when that would not make it smaller. */
export function packZip(pixels: Uint8Array, tools: EncoderTools): Uint8Array | null {
  const packed = tools.deflate(splitHalves(pixels));
  return packed.length < pixels.length ? packed : null;
}

const SHORTEST_RUN = 3;
const LONGEST_RUN = 128;
const LONGEST_LITERAL = 127;

/** Packs a chunk with run lengths; null when that would not make it smaller. */
export function packRle(pixels: Uint8Array): Uint8Array | null {
  const split = splitHalves(pixels);
  const out: number[] = [];
  let position = 0;
  const runAt = (start: number) => {
    let end = start + 1;
    while (end < split.length && split[end] === split[start] && end - start < LONGEST_RUN) end++;
    return end - start;
  };
  while (position < split.length && out.length < pixels.length) {
    const run = runAt(position);
    if (run >= SHORTEST_RUN) {
      out.push(run - 1, split[position]);
      position += run;
      continue;
    }
    let end = position;
    while (end < split.length && end - position < LONGEST_LITERAL && runAt(end) < SHORTEST_RUN) end++;
    out.push((position - end) & 0xff, ...split.subarray(position, end));
    position = end;
  }
  return out.length < pixels.length ? Uint8Array.from(out) : null;
}
