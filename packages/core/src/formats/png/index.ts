import type { FrameFormat } from '../frame.ts';
import { checkPngStructure } from './check.ts';
import { decodePng } from './decode.ts';
import { PNG_SIGNATURE, pngFrameHeader, readPreamble } from './header.ts';
import { pngKind } from './kind.ts';
import { salvagePng } from './salvage.ts';

export { encodePng, type PngPicture } from './encode.ts';

/** PNG (ISO/IEC 15948): every colour type and depth, interlaced or not. */
export const png: FrameFormat = {
  ...pngKind,
  recognises: (firstBytes) => PNG_SIGNATURE.every((byte, i) => firstBytes[i] === byte),
  open(source) {
    const preamble = readPreamble(source);
    return {
      header: pngFrameHeader(preamble),
      check: () => checkPngStructure(source, preamble),
      decode: (tools) => decodePng(source, preamble, tools),
      salvage: (tools) => salvagePng(source, preamble, tools),
    };
  },
};
