import { aspectFraction, type InterleavedPicture } from '../interleaved.ts';
import { FOOTER_SIGNATURE, TGA_HEADER_BYTES } from './header.ts';

const EXTENSION_BYTES = 495;
const FOOTER_BYTES = 26;
const TOP_LEFT = 0x20;
const COLOUR = 2;
const GREY = 3;

/** Writes a picture of 8 bits as TGA of version 2, unpacked, top row first (sections "Image Descriptor", "Extension Area", "File Footer"). */
export function encodeTga(picture: InterleavedPicture): Uint8Array {
  const { width, height, samplesPerPixel: samples, data } = picture;
  const hasAlpha = samples % 2 === 0;
  const pixels = TGA_HEADER_BYTES + data.length;
  const out = new Uint8Array(pixels + EXTENSION_BYTES + FOOTER_BYTES);
  const view = new DataView(out.buffer);
  out[2] = samples > 2 ? COLOUR : GREY;
  view.setUint16(12, width, true);
  view.setUint16(14, height, true);
  out[16] = 8 * samples;
  out[17] = TOP_LEFT | (hasAlpha ? 8 : 0);
  for (let i = 0; i < data.length; i += samples) {
    const at = TGA_HEADER_BYTES + i;
    if (samples <= 2) out.set(data.subarray(i, i + samples), at);
    else {
      // Blue stands first.
      out[at] = data[i + 2]!;
      out[at + 1] = data[i + 1]!;
      out[at + 2] = data[i]!;
      if (hasAlpha) out[at + 3] = data[i + 3]!;
    }
  }
  view.setUint16(pixels, EXTENSION_BYTES, true);
  const [across, down] = aspectFraction(picture.pixelAspect ?? 1);
  view.setUint16(pixels + 474, across, true);
  view.setUint16(pixels + 476, down, true);
  out[pixels + 494] = !hasAlpha ? 0 : picture.alphaKind === 'premultiplied' ? 4 : 3;
  view.setUint32(pixels + EXTENSION_BYTES, pixels, true);
  [...FOOTER_SIGNATURE].forEach((letter, i) => (out[pixels + EXTENSION_BYTES + 8 + i] = letter.charCodeAt(0)));
  return out;
}
