import type { FrameFormat } from '../frame.ts';
import { checkPngStructure } from './check.ts';
import { decodePng } from './decode.ts';
import { PNG_SIGNATURE, pngFrameHeader, readPreamble } from './header.ts';

export { encodePng, type PngPicture } from './encode.ts';

/** PNG (ISO/IEC 15948): every colour type and depth, interlaced or not. */
export const png: FrameFormat = {
  name: 'png',
  extensions: ['png'],
  recognises: (firstBytes) => PNG_SIGNATURE.every((byte, i) => firstBytes[i] === byte),
  readHeader: (source) => pngFrameHeader(readPreamble(source)),
  checkStructure: checkPngStructure,
  decode: decodePng,
};
