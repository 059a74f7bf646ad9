import zlib from 'node:zlib';
import { PackedDataError, type EncoderTools, type SalvageTools } from '@mint-tally/core';

const LARGEST_PIECE = 2 ** 25;

/** zlib's words for a stream that is damaged, ends too early, or needs a dictionary that nobody has. */
function isDamage(thrown: unknown): boolean {
  const { code } = thrown as { code?: string };
  return code === 'Z_DATA_ERROR' || code === 'Z_BUF_ERROR' || code === 'Z_NEED_DICT';
}

/** Node's own zlib in the shape that the formats ask for. */
export const codecTools: SalvageTools & EncoderTools = {
  inflate(data, maximumLength) {
    try {
      // What comes out is made in one piece where it can be as much (deflate makes at most 1032 bytes of one): pieces would
      // have to be joined, and what is not filled costs nothing.
      const chunkSize = Math.max(64, Math.min(maximumLength + 1, LARGEST_PIECE, data.length * 1032));
      return zlib.inflateSync(data, { maxOutputLength: Math.max(1, maximumLength), chunkSize });
    } catch (thrown) {
      if ((thrown as { code?: string }).code === 'ERR_BUFFER_TOO_LARGE')
        throw new PackedDataError(`it inflates to more than ${maximumLength.toLocaleString('en')} bytes`, thrown);
      if (isDamage(thrown)) throw new PackedDataError((thrown as Error).message, thrown);
      throw thrown;
    }
  },
  inflateStart(data, maximumLength) {
    const start = (length: number) =>
      zlib.inflateSync(data.subarray(0, length), { maxOutputLength: Math.max(1, maximumLength), finishFlush: zlib.constants.Z_SYNC_FLUSH });
    // A stream goes as far as its first damaged byte, which is found by halves.
    let [sound, damaged] = [0, data.length + 1];
    let best: Uint8Array = new Uint8Array(0);
    for (let length = data.length; damaged - sound > 1; length = (sound + damaged) >> 1) {
      try {
        best = start(length);
        sound = length;
      } catch (thrown) {
        if (!isDamage(thrown) && (thrown as { code?: string }).code !== 'ERR_BUFFER_TOO_LARGE') throw thrown;
        damaged = length;
      }
    }
    return best;
  },
  deflate: (data) => zlib.deflateSync(data),
  crc32: (data) => zlib.crc32(data),
};
