import { unpackLzwStream, type Damage } from '../../kernels/index.ts';
import { PackedDataError } from '../errors.ts';
/**
 * Whether a stream is LZW as writers before version 6 of the specification understood it: codes with their lowest bit
 * first. Both begin with the code 256, which stands as 0x80 0x00 today and stood as 0x00 0x01 then.
 */
export function isOldLzw(packed: Uint8Array): boolean {
  return packed.length >= 2 && packed[0] === 0 && (packed[1] & 1) === 1;
}

const SAID: Record<Damage, string> = {
  'too short': 'it gives too few bytes',
  'impossible code': 'it holds a code that was never made',
  'too long': 'it gives too many bytes',
};

/** Undoes TIFF's LZW (section 13). @throws PackedDataError when the stream is damaged */
export function unpackLzw(packed: Uint8Array, size: number): Uint8Array {
  const unpacked = unpackLzwStream(packed, size);
  if (typeof unpacked === 'string') throw new PackedDataError(SAID[unpacked]);
  return unpacked;
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
