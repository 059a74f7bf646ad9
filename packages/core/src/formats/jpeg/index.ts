import type { FrameFormat } from '../frame.ts';
import { checkJpegStructure } from './check.ts';
import { decodeJpeg } from './decode.ts';
import { jpegFrameHeader, readJpegImage } from './header.ts';

/** JPEG (ITU-T T.81): baseline, extended and progressive, 8 bits. */
export const jpeg: FrameFormat = {
  name: 'jpeg',
  extensions: ['jpg', 'jpeg'],
  recognises: (firstBytes) => firstBytes[0] === 0xff && firstBytes[1] === 0xd8 && firstBytes[2] === 0xff,
  readHeader: (source) => jpegFrameHeader(readJpegImage(source)),
  checkStructure: checkJpegStructure,
  decode: decodeJpeg,
};
