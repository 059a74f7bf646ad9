import zlib from 'node:zlib';
import type { CodecTools, EncoderTools } from '@mint-tally/core';

const LARGEST_PIECE = 2 ** 25;

/** Node's own zlib in the shape that the formats ask for. */
export const codecTools: CodecTools & EncoderTools = {
  inflate(data, maximumLength) {
    try {
      // What comes out is made in one piece where its size is known and likely: pieces would have to be joined.
      const chunkSize = Math.max(64, Math.min(maximumLength + 1, LARGEST_PIECE, data.length * 16));
      return zlib.inflateSync(data, { maxOutputLength: Math.max(1, maximumLength), chunkSize });
    } catch (thrown) {
      if ((thrown as { code?: string }).code !== 'ERR_BUFFER_TOO_LARGE') throw thrown;
      throw new Error(`it inflates to more than ${maximumLength.toLocaleString('en')} bytes`, { cause: thrown });
    }
  },
  deflate: (data) => zlib.deflateSync(data),
  crc32: (data) => zlib.crc32(data),
};
