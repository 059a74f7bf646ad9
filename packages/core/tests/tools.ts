import { readFileSync } from 'node:fs';
import zlib from 'node:zlib';
import { PackedDataError, type EncoderTools, type SalvageTools } from '../src/index.ts';

/** Node's zlib as the codecs want it. */
export const tools: SalvageTools & EncoderTools = {
  inflate: (data, maximumLength) => {
    try {
      return zlib.inflateSync(data, { maxOutputLength: Math.max(1, maximumLength) });
    } catch (thrown) {
      throw new PackedDataError((thrown as Error).message, thrown);
    }
  },
  inflateStart: (data, maximumLength) => {
    // As far as it goes, byte by byte: slower than the engine's, and too plain to be wrong.
    for (let length = data.length; length > 0; length--) {
      try {
        return zlib.inflateSync(data.subarray(0, length), { maxOutputLength: Math.max(1, maximumLength), finishFlush: zlib.constants.Z_SYNC_FLUSH });
      } catch {
        // One byte less.
      }
    }
    return new Uint8Array(0);
  },
  deflate: (data) => zlib.deflateSync(data),
  crc32: (data) => zlib.crc32(data),
};

const root = new URL('../fixtures/', import.meta.url);

/** Bytes of a reference frame, such as `png/rgb8.png`. */
export function fixture(path: string): Uint8Array {
  return new Uint8Array(readFileSync(new URL(path, root)));
}

/** The readings of the reference decoders, one object a file. */
export function references<Reference>(format: string): Reference[] {
  const text = readFileSync(new URL(`${format}/reference.jsonl`, root), 'utf8');
  return text
    .trim()
    .split('\n')
    .map((line) => JSON.parse(line) as Reference);
}
