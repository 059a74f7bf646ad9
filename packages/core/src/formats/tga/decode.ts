import type { ByteSource } from '../byte-source.ts';
import { FrameFileError } from '../errors.ts';
import { boundDecoded, type Decoded, type DecodedFrame, type Salvaged } from '../frame.ts';
import { interleavedPlanes } from '../planes.ts';
import { lostRows, NO_ROW } from '../salvage.ts';
import { checkTgaStructure, pixelBytes } from './check.ts';
import { tgaChannels, tgaFrameHeader, type TgaImage } from './header.ts';

/** Decodes every pixel to 8 bits a channel, top row first. @throws FrameFileError, NotDecodedError */
export function decodeTga(source: ByteSource, image: TgaImage): Decoded {
  const report = checkTgaStructure(source, image);
  const { frame } = decodeRows(source, image);
  const lineBytes = image.width * pixelBytes(image);
  const plain = image.runs ? undefined : [{ start: image.pixelOffset, end: image.pixelOffset + image.height * lineBytes, lineBytes }];
  return { frame, report: { ...report, plain } };
}

/** Decodes the rows that a file holds before it ends. @throws FrameFileError when there is none, and as the decode does */
export function salvageTga(source: ByteSource, image: TgaImage): Salvaged {
  const { frame, rows } = decodeRows(source, image);
  if (rows < 1) throw new FrameFileError('truncated', NO_ROW);
  return { frame, damage: lostRows(image, rows, !image.topDown) };
}

/** Decodes the rows that are there; the others stay zero. */
function decodeRows(source: ByteSource, image: TgaImage): { frame: DecodedFrame; rows: number } {
  const bytes = source.read(0, source.size);
  const { width, height } = image;
  boundDecoded(width * height * (pixelBytes(image) + 4), width, height);
  const stored = image.runs ? expandRuns(bytes, image) : bytes.subarray(image.pixelOffset);
  const rows = Math.min(height, Math.floor(stored.length / pixelBytes(image) / width));
  const names = tgaChannels(image).map((channel) => channel.name);
  const data = new Uint8Array(width * height * names.length);
  const write = pixelWriter(bytes, image, stored, data, names.length);
  for (let y = 0; y < rows; y++) {
    const row = image.topDown ? y : height - 1 - y;
    for (let x = 0; x < width; x++) write(y * width + x, (row * width + (image.rightToLeft ? width - 1 - x : x)) * names.length);
  }
  return { frame: { header: tgaFrameHeader(image), planes: interleavedPlanes(names, width, height, 'u8', data) }, rows };
}

/** Expands the packets, as far as they are there and fit the picture. */
function expandRuns(bytes: Uint8Array, image: TgaImage): Uint8Array {
  const size = pixelBytes(image);
  const out = new Uint8Array(image.width * image.height * size);
  let from = image.pixelOffset;
  let to = 0;
  while (to < out.length) {
    const packet = bytes[from++]!;
    const length = ((packet & 0x7f) + 1) * size;
    const taken = packet & 0x80 ? size : length;
    if (from + taken > bytes.length || to + length > out.length) break;
    if (packet & 0x80) for (let i = 0; i < length; i++) out[to + i] = bytes[from + (i % size)]!;
    else out.set(bytes.subarray(from, from + length), to);
    from += taken;
    to += length;
  }
  return out.subarray(0, to);
}

type PixelWriter = (pixel: number, target: number) => void;

function pixelWriter(bytes: Uint8Array, image: TgaImage, stored: Uint8Array, data: Uint8Array, channels: number): PixelWriter {
  if (image.kind === 'grey') {
    return (pixel, target) => {
      for (let c = 0; c < channels; c++) data[target + c] = stored[pixel * channels + c];
    };
  }
  const { palette } = image;
  if (!palette) {
    const size = pixelBytes(image);
    return (pixel, target) => writeColour(stored, pixel * size, size, data, target, channels);
  }
  const size = Math.ceil(palette.bits / 8);
  return (pixel, target) => {
    const entry = stored[pixel] - palette.first;
    if (entry < 0 || entry >= palette.length) throw new FrameFileError('corrupt', `A pixel asks for palette entry ${stored[pixel]} of ${palette.length}.`);
    writeColour(bytes, palette.offset + entry * size, size, data, target, channels);
  };
}

/** Blue comes first; two bytes hold five bits a colour and one of alpha. */
function writeColour(from: Uint8Array, at: number, size: number, data: Uint8Array, target: number, channels: number): void {
  if (size === 2) {
    const word = from[at] | (from[at + 1] << 8);
    for (let c = 0; c < 3; c++) data[target + c] = Math.round((((word >> (10 - 5 * c)) & 31) * 255) / 31);
    if (channels === 4) data[target + 3] = word & 0x8000 ? 255 : 0;
    return;
  }
  data[target] = from[at + 2];
  data[target + 1] = from[at + 1];
  data[target + 2] = from[at];
  if (channels === 4) data[target + 3] = from[at + 3];
}
