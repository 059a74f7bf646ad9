import type { FrameFormat } from '../frame.ts';
import { checkJpegStructure } from './check.ts';
import { decodeJpeg } from './decode.ts';
import { jpegFrameHeader, readJpegImage } from './header.ts';
import { jpegKind } from './kind.ts';
import { MARKER } from './markers.ts';
import { salvageJpeg } from './salvage.ts';

/** JPEG (ITU-T T.81): baseline, extended and progressive, 8 bits. */
export const jpeg: FrameFormat = {
  ...jpegKind,
  // A frame of JPEG-LS (ITU-T T.87) begins alike; it is told as what it is.
  recognises: (firstBytes) => firstBytes[0] === 0xff && firstBytes[1] === 0xd8 && firstBytes[2] === 0xff && firstBytes[3] !== MARKER.lossless,
  open(source) {
    const image = readJpegImage(source);
    return {
      header: jpegFrameHeader(image),
      check: () => checkJpegStructure(source, image),
      decode: () => decodeJpeg(source, image),
      salvage: () => salvageJpeg(source, image),
    };
  },
};
