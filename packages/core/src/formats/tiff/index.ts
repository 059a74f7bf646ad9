import type { FrameFormat } from '../frame.ts';
import { checkTiffStructure } from './check.ts';
import { decodeTiff } from './decode.ts';
import { readFirstImage, tiffFrameHeader } from './header.ts';
import { tiffKind } from './kind.ts';
import { salvageTiff } from './salvage.ts';

const SIGNATURES = [
  [0x49, 0x49, 0x2a, 0],
  [0x4d, 0x4d, 0, 0x2a],
  [0x49, 0x49, 0x2b, 0],
  [0x4d, 0x4d, 0, 0x2b],
];

/** TIFF and BigTIFF: strips and tiles, planes together or apart; none, LZW, deflate and PackBits are decoded. */
export const tiff: FrameFormat = {
  ...tiffKind,
  recognises: (firstBytes) => SIGNATURES.some((signature) => signature.every((byte, i) => firstBytes[i] === byte)),
  open(source) {
    const image = readFirstImage(source);
    return {
      header: tiffFrameHeader(image),
      check: () => checkTiffStructure(source, image).report,
      decode: (tools) => decodeTiff(source, image, tools),
      salvage: (tools) => salvageTiff(source, image, tools),
    };
  },
};
