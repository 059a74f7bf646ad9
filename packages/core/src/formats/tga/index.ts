import type { FrameFormat } from '../frame.ts';
import { checkTgaStructure } from './check.ts';
import { decodeTga } from './decode.ts';
import { looksLikeTga, readTgaImage, tgaFrameHeader } from './header.ts';

/** TGA: grey, palette and true colour, with run lengths or without. */
export const tga: FrameFormat = {
  name: 'tga',
  extensions: ['tga', 'icb', 'vda', 'vst'],
  withoutSignature: true,
  recognises: looksLikeTga,
  readHeader: (source) => tgaFrameHeader(readTgaImage(source)),
  checkStructure: checkTgaStructure,
  decode: decodeTga,
};
