import type { FrameFormat } from '../frame.ts';
import { checkDpxStructure } from './check.ts';
import { decodeDpx, salvageDpx } from './decode.ts';
import { dpxFrameHeader, readDpxImage } from './header.ts';
import { dpxKind } from './kind.ts';

const SIGNATURES = ['SDPX', 'XPDS'];

/** DPX (SMPTE ST 268): 8, 10, 12 and 16 bits in every packing, both byte orders. */
export const dpx: FrameFormat = {
  ...dpxKind,
  recognises: (firstBytes) => SIGNATURES.some((signature) => [...signature].every((letter, i) => firstBytes[i] === letter.charCodeAt(0))),
  open(source) {
    const image = readDpxImage(source);
    return {
      header: dpxFrameHeader(image),
      check: () => checkDpxStructure(source, image),
      decode: () => decodeDpx(source, image),
      salvage: () => salvageDpx(source, image),
    };
  },
};
