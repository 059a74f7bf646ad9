import type { EncoderTools, PixelWindow } from '../frame.ts';
import { packRle, packZip } from './packing/zip-and-rle.ts';
import { EXR_MAGIC, type ExrAttribute } from './header.ts';

/** A channel to write: half values as their 16 bits, float and uint as they are. */
export interface ExrChannelData {
  readonly name: string;
  readonly type: 'half' | 'float' | 'uint';
  /** One sample a pixel of the data window, row by row. */
  readonly data: Uint16Array | Float32Array | Uint32Array;
}

/** A picture to write as one part of scan lines. */
export interface ExrPicture {
  readonly dataWindow: PixelWindow;
  readonly displayWindow: PixelWindow;
  readonly pixelAspect: number;
  readonly compression: 'none' | 'rle' | 'zips' | 'zip';
  readonly channels: readonly ExrChannelData[];
  /** Written as attributes of type string, int or float. */
  readonly metadata: Readonly<Record<string, string | { int: number } | { float: number }>>;
  /** Attributes of another file's header, which are written as they are. */
  readonly kept?: ReadonlyMap<string, ExrAttribute>;
}

/** Names that are longer have to be announced. */
const SHORT_NAME = 31;
const LONG_NAMES = 4;

const CODES = { none: 0, rle: 1, zips: 2, zip: 3 } as const;

/** Writes a picture as EXR. The same input gives the same bytes. */
export function encodeExr(picture: ExrPicture, tools: EncoderTools): Uint8Array {
  // Channels stand in the order of their names, in the list and in every line.
  const channels = [...picture.channels].sort((a, b) => (a.name < b.name ? -1 : 1));
  const [left, top, right, bottom] = picture.dataWindow;
  const width = right - left + 1;
  const height = bottom - top + 1;
  const linesPerChunk = picture.compression === 'zip' ? 16 : 1;
  const header = writeHeader(picture, channels);
  const rows = channels.map((channel) => new Uint8Array(channel.data.buffer, channel.data.byteOffset, channel.data.byteLength));
  const rowBytes = channels.map((channel) => width * channel.data.BYTES_PER_ELEMENT);
  const lineBytes = rowBytes.reduce((sum, bytes) => sum + bytes, 0);

  const chunks: Uint8Array[] = [];
  for (let row = 0; row < height; row += linesPerChunk) {
    const lines = Math.min(linesPerChunk, height - row);
    const pixels = new Uint8Array(lineBytes * lines);
    let position = 0;
    for (let line = row; line < row + lines; line++) {
      rows.forEach((bytes, c) => {
        pixels.set(bytes.subarray(line * rowBytes[c], (line + 1) * rowBytes[c]), position);
        position += rowBytes[c];
      });
    }
    chunks.push(writeChunk(top + row, pack(pixels, picture.compression, tools) ?? pixels));
  }
  return joinFile(header, chunks);
}

function pack(pixels: Uint8Array, compression: ExrPicture['compression'], tools: EncoderTools): Uint8Array | null {
  if (compression === 'none') return null;
  return compression === 'rle' ? packRle(pixels) : packZip(pixels, tools);
}

function writeChunk(y: number, data: Uint8Array): Uint8Array {
  const chunk = new Uint8Array(8 + data.length);
  const view = new DataView(chunk.buffer);
  view.setInt32(0, y, true);
  view.setInt32(4, data.length, true);
  chunk.set(data, 8);
  return chunk;
}

function joinFile(header: Uint8Array, chunks: readonly Uint8Array[]): Uint8Array {
  const tableEnd = header.length + chunks.length * 8;
  const out = new Uint8Array(tableEnd + chunks.reduce((sum, chunk) => sum + chunk.length, 0));
  const view = new DataView(out.buffer);
  out.set(header);
  let position = tableEnd;
  chunks.forEach((chunk, i) => {
    view.setBigUint64(header.length + i * 8, BigInt(position), true);
    out.set(chunk, position);
    position += chunk.length;
  });
  return out;
}

function writeHeader(picture: ExrPicture, channels: readonly ExrChannelData[]): Uint8Array {
  const kept = picture.kept ?? new Map<string, ExrAttribute>();
  const names = [...kept.keys(), ...[...kept.values()].map(({ type }) => type), ...channels.map(({ name }) => name), ...Object.keys(picture.metadata)];
  const bytes: number[] = [...EXR_MAGIC, 2, names.some((name) => name.length > SHORT_NAME) ? LONG_NAMES : 0, 0, 0];
  const text = (value: string) => [...new TextEncoder().encode(value)];
  const number32 = (set: (view: DataView) => void) => {
    const view = new DataView(new ArrayBuffer(4));
    set(view);
    return [...new Uint8Array(view.buffer)];
  };
  const int = (value: number) => number32((view) => view.setInt32(0, value, true));
  const float = (value: number) => number32((view) => view.setFloat32(0, value, true));
  const attribute = (name: string, type: string, value: Iterable<number> & { readonly length: number }) => {
    bytes.push(...text(name), 0, ...text(type), 0, ...int(value.length));
    for (const byte of value) bytes.push(byte);
  };
  const typeCodes = { uint: 0, half: 1, float: 2 };
  const list = channels.flatMap((channel) => [...text(channel.name), 0, ...int(typeCodes[channel.type]), 0, 0, 0, 0, ...int(1), ...int(1)]);
  attribute('channels', 'chlist', [...list, 0]);
  attribute('compression', 'compression', [CODES[picture.compression]]);
  attribute('dataWindow', 'box2i', picture.dataWindow.flatMap(int));
  attribute('displayWindow', 'box2i', picture.displayWindow.flatMap(int));
  attribute('lineOrder', 'lineOrder', [0]);
  attribute('pixelAspectRatio', 'float', float(picture.pixelAspect));
  if (!kept.has('screenWindowCenter')) attribute('screenWindowCenter', 'v2f', [...float(0), ...float(0)]);
  if (!kept.has('screenWindowWidth')) attribute('screenWindowWidth', 'float', float(1));
  for (const [name, { type, value }] of kept) if (!(name in picture.metadata)) attribute(name, type, value);
  for (const [name, value] of Object.entries(picture.metadata)) {
    if (typeof value === 'string') attribute(name, 'string', text(value));
    else if ('int' in value) attribute(name, 'int', int(value.int));
    else attribute(name, 'float', float(value.float));
  }
  bytes.push(0);
  return Uint8Array.from(bytes);
}
