import { swapBytes } from '../byte-order.ts';
import type { EncoderTools } from '../frame.ts';
import { aspectFraction, type InterleavedPicture } from '../interleaved.ts';
import { filterRows } from './filters.ts';
import { CHUNK_OVERHEAD, PNG_SIGNATURE } from './header.ts';

/** A picture of 8 or 16 bits to write; notes become tEXt chunks, keywords and texts of Latin-1. */
export type PngPicture = Omit<InterleavedPicture, 'data' | 'isHalf' | 'alphaKind'> & { readonly data: Uint8Array | Uint16Array };

const COLOUR_TYPES = { 1: 0, 2: 4, 3: 2, 4: 6 } as const;

/** Writes a picture as PNG, without interlacing, in one IDAT chunk. The same input gives the same bytes. */
export function encodePng(picture: PngPicture, tools: EncoderTools): Uint8Array {
  const { width, height, samplesPerPixel, data } = picture;
  const wide = data instanceof Uint16Array;
  const bytesPerPixel = samplesPerPixel * (wide ? 2 : 1);
  const packed = tools.deflate(filterRows(wide ? bigEndian(data) : data, width * bytesPerPixel, height, bytesPerPixel));
  const header = new Uint8Array(13);
  const view = new DataView(header.buffer);
  view.setUint32(0, width);
  view.setUint32(4, height);
  header[8] = wide ? 16 : 8;
  header[9] = COLOUR_TYPES[samplesPerPixel];
  const notes = Object.entries(picture.notes ?? {}).map(([keyword, text]) => makeChunk('tEXt', latin1(`${keyword}\0${text}`), tools));
  const shape = picture.pixelAspect === undefined || picture.pixelAspect === 1 ? [] : [makeChunk('pHYs', pixelShape(picture.pixelAspect), tools)];
  const chunks = [makeChunk('IHDR', header, tools), ...shape, ...notes, makeChunk('IDAT', packed, tools), makeChunk('IEND', new Uint8Array(0), tools)];
  const out = new Uint8Array(PNG_SIGNATURE.length + chunks.reduce((sum, chunk) => sum + chunk.length, 0));
  out.set(PNG_SIGNATURE);
  let position = PNG_SIGNATURE.length;
  for (const chunk of chunks) {
    out.set(chunk, position);
    position += chunk.length;
  }
  return out;
}

/** More pixels a unit make a pixel smaller (section 11.3.4.3). */
function pixelShape(aspect: number): Uint8Array {
  const [across, down] = aspectFraction(aspect);
  const data = new Uint8Array(9);
  new DataView(data.buffer).setUint32(0, down);
  new DataView(data.buffer).setUint32(4, across);
  return data;
}

function latin1(text: string): Uint8Array {
  return Uint8Array.from(text, (letter) => (letter.charCodeAt(0) < 256 ? letter.charCodeAt(0) : 0x3f));
}

function bigEndian(samples: Uint16Array): Uint8Array {
  const out = new Uint8Array(samples.slice().buffer);
  swapBytes(out, 2);
  return out;
}

function makeChunk(type: string, data: Uint8Array, tools: EncoderTools): Uint8Array {
  const chunk = new Uint8Array(CHUNK_OVERHEAD + data.length);
  const view = new DataView(chunk.buffer);
  view.setUint32(0, data.length);
  for (let i = 0; i < 4; i++) chunk[4 + i] = type.charCodeAt(i);
  chunk.set(data, 8);
  view.setUint32(8 + data.length, tools.crc32(chunk.subarray(4, 8 + data.length)));
  return chunk;
}
