import type { ScanCodes } from '../../kernels/index.ts';
import { FrameFileError } from '../errors.ts';

/** A Huffman table (section C): by the next nine bits value times 16 plus length, 0 where the code is longer; and codes by their length. */
export type HuffmanTable = ScanCodes;

const SHORT_BITS = 9;

/** Makes a table of the counts by length and the values that DHT lists. @throws FrameFileError */
export function makeHuffmanTable(counts: Uint8Array, values: Uint8Array): HuffmanTable {
  const short = new Uint16Array(1 << SHORT_BITS);
  const first = new Int32Array(17);
  const offset = new Int32Array(17);
  const count = new Uint8Array(17);
  let code = 0;
  let place = 0;
  for (let length = 1; length <= 16; length++) {
    first[length] = code;
    offset[length] = place;
    count[length] = counts[length - 1];
    if (code + count[length] > 1 << length) throw new FrameFileError('corrupt', 'A table of codes is impossible.');
    for (let i = 0; i < count[length]; i++, code++, place++) {
      if (length > SHORT_BITS) continue;
      const start = code << (SHORT_BITS - length);
      short.fill(values[place] * 16 + length, start, start + (1 << (SHORT_BITS - length)));
    }
    code <<= 1;
  }
  return { short, first, count, offset, values };
}
