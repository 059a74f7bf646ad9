import zlib from 'node:zlib';
import { PackedDataError, type CodecTools, type EncoderTools } from '@mint-tally/core';

const LARGEST_PIECE = 2 ** 25;

/** Node's own zlib in the shape that the formats ask for. */
export const codecTools: CodecTools & EncoderTools = {
  inflate(data, maximumLength) {
    try {
      // What comes out is made in one piece where it can be as much (deflate makes at most 1032 bytes of one): pieces would
      // have to be joined, and what is not filled costs nothing.
      const chunkSize = Math.max(64, Math.min(maximumLength + 1, LARGEST_PIECE, data.length * 1032));
      return zlib.inflateSync(data, { maxOutputLength: Math.max(1, maximumLength), chunkSize });
    } catch (thrown) {
      const { code, message } = thrown as { code?: string; message: string };
      if (code === 'ERR_BUFFER_TOO_LARGE') throw new PackedDataError(`it inflates to more than ${maximumLength.toLocaleString('en')} bytes`, thrown);
      // zlib's words for a stream that is damaged, ends too early, or needs a dictionary that nobody has.
      if (code === 'Z_DATA_ERROR' || code === 'Z_BUF_ERROR' || code === 'Z_NEED_DICT') throw new PackedDataError(message, thrown);
      throw thrown;
    }
  },
  deflate: (data) => zlib.deflateSync(data),
  crc32: (data) => zlib.crc32(data),
};
