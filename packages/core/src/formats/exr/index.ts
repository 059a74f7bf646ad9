import type { FrameFormat } from '../frame.ts';
import { checkExrStructure } from './check.ts';
import { decodeExr } from './decode.ts';
import { EXR_MAGIC, exrFrameHeader, readExrHeader } from './header.ts';

export { encodeExr, type ExrChannelData, type ExrPicture } from './encode.ts';
export { floatToHalf, halfToFloat } from './half.ts';

/** OpenEXR: scan lines and tiles, one part or several, all ten compressions; deep pixels are not decoded. */
export const exr: FrameFormat = {
  name: 'exr',
  extensions: ['exr'],
  recognises: (firstBytes) => EXR_MAGIC.every((byte, i) => firstBytes[i] === byte),
  readHeader: (source) => exrFrameHeader(readExrHeader(source)),
  checkStructure: checkExrStructure,
  decode: decodeExr,
};
