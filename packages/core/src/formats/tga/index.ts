import type { FrameFormat } from '../frame.ts';
import { checkTgaStructure } from './check.ts';
import { decodeTga, salvageTga } from './decode.ts';
import { looksLikeTga, readTgaImage, tgaFrameHeader } from './header.ts';
import { tgaKind } from './kind.ts';

/** TGA: grey, palette and true colour, with run lengths or without. */
export const tga: FrameFormat = {
  ...tgaKind,
  withoutSignature: true,
  recognises: looksLikeTga,
  open(source) {
    const image = readTgaImage(source);
    return {
      header: tgaFrameHeader(image),
      check: () => checkTgaStructure(source, image),
      decode: () => decodeTga(source, image),
      salvage: () => salvageTga(source, image),
    };
  },
};
