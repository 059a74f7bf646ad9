import type { ByteSource } from '../byte-source.ts';
import { FrameFileError, PackedDataError } from '../errors.ts';
import { boundDecoded, type CodecTools, type Decoded, type Plane } from '../frame.ts';
import { checkPngChunks, type PngContents } from './check.ts';
import { pngFrameHeader, SAMPLES_PER_PIXEL, type PngImageHeader, type PngPreamble } from './header.ts';
import { unfilter } from './filters.ts';

/** Deflate makes at most 1032 bytes of one (RFC 1951: 258 bytes from two bits, at best). */
const MAXIMUM_DEFLATE_RATIO = 1032;

/** One of Adam7's seven passes: where it starts and how far apart its pixels lie (section 8.2). */
const ADAM7 = [
  { x: 0, y: 0, dx: 8, dy: 8 },
  { x: 4, y: 0, dx: 8, dy: 8 },
  { x: 0, y: 4, dx: 4, dy: 8 },
  { x: 2, y: 0, dx: 4, dy: 4 },
  { x: 0, y: 2, dx: 2, dy: 4 },
  { x: 1, y: 0, dx: 2, dy: 2 },
  { x: 0, y: 1, dx: 1, dy: 2 },
];

/** A rectangle of filtered rows inside the inflated stream. */
interface SubImage {
  readonly x: number;
  readonly y: number;
  readonly dx: number;
  readonly dy: number;
  readonly width: number;
  readonly height: number;
  readonly rowBytes: number;
}

/** The same with its rows as they were before they were filtered. */
interface UnfilteredImage extends SubImage {
  readonly rows: Uint8Array;
}

/**
 * Checks every chunk, inflates and unfilters the pixels, and gives them as planes of 8 or 16 bit
 * code values; fewer bits are scaled to 8, a palette is looked up.
 *
 * @throws FrameFileError, NotDecodedError
 */
export function decodePng(source: ByteSource, preamble: PngPreamble, tools: CodecTools): Decoded {
  if (preamble.broken) throw preamble.broken;
  const bytes = source.read(0, source.size);
  const contents = checkPngChunks(source, bytes, tools);
  const { image } = preamble;
  const subImages = layOut(image);
  const expected = subImages.reduce((sum, part) => sum + part.height * (part.rowBytes + 1), 0);
  const packed = joinData(bytes, contents);
  if (expected > packed.length * MAXIMUM_DEFLATE_RATIO + 64) {
    throw new FrameFileError('corrupt', `The header promises ${image.width} x ${image.height} pixels, more than the data can hold.`);
  }
  boundDecoded(Math.max(expected, image.width * image.height * 8), image.width, image.height);
  const raw = inflatePixels(packed, expected, tools);
  const samples = SAMPLES_PER_PIXEL[image.colourType];
  const bytesPerPixel = Math.max(1, (samples * image.bitDepth) >> 3);
  let position = 0;
  const parts = subImages.map((part) => {
    const start = position;
    position += part.height * (part.rowBytes + 1);
    return { ...part, rows: unfilter(raw.subarray(start, position), part.rowBytes, part.height, bytesPerPixel, image.bitDepth === 16) };
  });
  const interleaved = image.bitDepth === 16 ? gather16(image, parts, samples) : gather8(image, parts, samples);
  const frame = { header: pngFrameHeader(preamble), planes: makePlanes(interleaved, bytes, contents, preamble) };
  return { frame, report: contents.report };
}

export function layOut(image: PngImageHeader): SubImage[] {
  const bitsPerPixel = SAMPLES_PER_PIXEL[image.colourType] * image.bitDepth;
  const passes = image.interlaced ? ADAM7 : [{ x: 0, y: 0, dx: 1, dy: 1 }];
  return passes
    .map((pass) => {
      const width = Math.ceil((image.width - pass.x) / pass.dx);
      const height = Math.ceil((image.height - pass.y) / pass.dy);
      return { ...pass, width, height, rowBytes: Math.ceil((width * bitsPerPixel) / 8) };
    })
    .filter((pass) => pass.width > 0 && pass.height > 0);
}

function joinData(bytes: Uint8Array, contents: PngContents): Uint8Array {
  if (contents.data.length === 1) {
    const only = contents.data[0]!;
    return bytes.subarray(only.offset, only.offset + only.length);
  }
  const joined = new Uint8Array(contents.data.reduce((sum, chunk) => sum + chunk.length, 0));
  let position = 0;
  for (const chunk of contents.data) {
    joined.set(bytes.subarray(chunk.offset, chunk.offset + chunk.length), position);
    position += chunk.length;
  }
  return joined;
}

function inflatePixels(packed: Uint8Array, expected: number, tools: CodecTools): Uint8Array {
  let raw: Uint8Array;
  try {
    raw = tools.inflate(packed, expected + 1);
  } catch (thrown) {
    if (!(thrown instanceof PackedDataError)) throw thrown;
    throw new FrameFileError('corrupt', `The pixel data cannot be inflated: ${thrown.message}.`);
  }
  if (raw.length !== expected) {
    throw new FrameFileError('corrupt', `The pixel data gives ${raw.length} bytes where the size needs ${expected}.`);
  }
  return raw;
}

/** Brings samples of 8 bits and fewer to their places, one byte a sample, unscaled. */
export function gather8(image: PngImageHeader, parts: readonly UnfilteredImage[], samples: number): Uint8Array {
  if (!image.interlaced && image.bitDepth === 8) return parts[0]!.rows;
  const out = new Uint8Array(image.width * image.height * samples);
  for (const part of parts) {
    for (let row = 0; row < part.height; row++) {
      const target = ((part.y + row * part.dy) * image.width + part.x) * samples;
      spreadRow(part.rows, row * part.rowBytes, out, target, part, image.bitDepth, samples);
    }
  }
  return out;
}

function spreadRow(raw: Uint8Array, source: number, out: Uint8Array, target: number, part: SubImage, bitDepth: number, samples: number): void {
  const perByte = 8 / bitDepth;
  const mask = (1 << bitDepth) - 1;
  for (let i = 0; i < part.width * samples; i++) {
    const byte = raw[source + Math.floor(i / perByte)];
    // Leftmost pixels stand in the high bits (section 7.2).
    const value = (byte >> (8 - bitDepth - (i % perByte) * bitDepth)) & mask;
    const pixel = Math.floor(i / samples);
    out[target + pixel * part.dx * samples + (i % samples)] = value;
  }
}

/** Brings samples of 16 bits to their places. */
export function gather16(image: PngImageHeader, parts: readonly UnfilteredImage[], samples: number): Uint16Array {
  const inShorts = parts.map((part) => ({ ...part, shorts: shortsOf(part.rows) }));
  if (!image.interlaced) return inShorts[0]!.shorts;
  const out = new Uint16Array(image.width * image.height * samples);
  for (const part of inShorts) {
    for (let row = 0; row < part.height; row++) {
      let source = row * part.width * samples;
      let target = ((part.y + row * part.dy) * image.width + part.x) * samples;
      for (let x = 0; x < part.width; x++) {
        for (let s = 0; s < samples; s++) out[target + s] = part.shorts[source++];
        target += part.dx * samples;
      }
    }
  }
  return out;
}

/** Bytes as numbers of 16 bits, where they lie if that is an even place. */
function shortsOf(rows: Uint8Array): Uint16Array {
  const { buffer, byteOffset, length } = rows.byteOffset % 2 === 0 ? rows : rows.slice();
  return new Uint16Array(buffer, byteOffset, length >> 1);
}

export function makePlanes(data: Uint8Array | Uint16Array, bytes: Uint8Array, contents: PngContents, preamble: PngPreamble): Plane[] {
  const { image } = preamble;
  const header = pngFrameHeader(preamble);
  const count = header.channels.length;
  const stored = SAMPLES_PER_PIXEL[image.colourType];
  let planes = data;
  if (image.colourType === 3) planes = lookUpPalette(data as Uint8Array, bytes, contents, count);
  else {
    if (contents.transparency && count > stored) planes = addKeyedAlpha(data, stored, bytes, contents);
    if (image.bitDepth < 8) {
      const scale = 255 / ((1 << image.bitDepth) - 1);
      // Alpha made from a key is 0 or 255 already.
      for (let i = 0; i < planes.length; i++) if (i % count < stored) planes[i] *= scale;
    }
  }
  const type = image.bitDepth === 16 ? 'u16' : 'u8';
  return header.channels.map((channel, offset) => ({
    channel: channel.name,
    type,
    width: image.width,
    height: image.height,
    data: planes,
    offset,
    stride: count,
  }));
}

function lookUpPalette(indices: Uint8Array, bytes: Uint8Array, contents: PngContents, count: number): Uint8Array {
  const { palette, transparency } = contents;
  if (!palette || palette.length % 3 !== 0 || palette.length === 0) throw new FrameFileError('corrupt', 'The picture needs a palette and has none.');
  const entries = palette.length / 3;
  const out = new Uint8Array(indices.length * count);
  for (let i = 0; i < indices.length; i++) {
    const index = indices[i];
    if (index >= entries) throw new FrameFileError('corrupt', `A pixel asks for palette entry ${index} of ${entries}.`);
    for (let c = 0; c < 3; c++) out[i * count + c] = bytes[palette.offset + index * 3 + c];
    if (count === 4) out[i * count + 3] = transparency && index < transparency.length ? bytes[transparency.offset + index] : 255;
  }
  return out;
}

/** Adds an alpha that is 0 where the pixel is the transparent colour (section 11.3.1.1). */
function addKeyedAlpha(data: Uint8Array | Uint16Array, stored: number, bytes: Uint8Array, contents: PngContents) {
  const { offset, length } = contents.transparency!;
  if (length !== stored * 2) throw new FrameFileError('corrupt', 'The transparent colour has the wrong length.');
  const key = Array.from({ length: stored }, (_, i) => (bytes[offset + 2 * i] << 8) | bytes[offset + 2 * i + 1]);
  const pixels = data.length / stored;
  const wide = data instanceof Uint16Array;
  const out = wide ? new Uint16Array(pixels * (stored + 1)) : new Uint8Array(pixels * (stored + 1));
  for (let i = 0; i < pixels; i++) {
    let isKey = true;
    for (let c = 0; c < stored; c++) {
      const value = data[i * stored + c];
      out[i * (stored + 1) + c] = value;
      if (value !== key[c]) isKey = false;
    }
    out[i * (stored + 1) + stored] = isKey ? 0 : wide ? 65535 : 255;
  }
  return out;
}
