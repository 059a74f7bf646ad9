import zlib from 'node:zlib';
import type { CodecTools, EncoderTools } from '@mint-tally/core';

/** Node's own zlib in the shape that the formats ask for. */
export const codecTools: CodecTools & EncoderTools = {
  inflate: (data, maximumLength) => zlib.inflateSync(data, { maxOutputLength: Math.max(1, maximumLength) }),
  deflate: (data) => zlib.deflateSync(data),
  crc32: (data) => zlib.crc32(data),
};
