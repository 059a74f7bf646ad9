import type { EncoderTools, PixelWindow } from '../frame.ts';
import { EXR_MAGIC, LINES_PER_CHUNK, type ExrAttribute } from './header.ts';
import type { ChunkLayout } from './packing/layout.ts';
import { packB44 } from './packing/pack-b44.ts';
import { packDwa } from './packing/pack-dwa.ts';
import { packPiz } from './packing/pack-piz.ts';
import { packPxr24 } from './packing/pack-pxr24.ts';
import { packRle, packZip } from './packing/zip-and-rle.ts';

/** A channel to write: half values as their 16 bits, float and uint as they are. */
export interface ExrChannelData {
  readonly name: string;
  readonly type: 'half' | 'float' | 'uint';
  /** One sample a pixel of the data window, row by row. */
  readonly data: Uint16Array | Float32Array | Uint32Array;
}

/** A picture to write as scan lines. */
export interface ExrPicture {
  /** Name of its part, which those of a file of several must have. */
  readonly name?: string;
  readonly dataWindow: PixelWindow;
  readonly displayWindow: PixelWindow;
  readonly pixelAspect: number;
  readonly compression: 'none' | 'rle' | 'zips' | 'zip' | 'piz' | 'pxr24' | 'b44' | 'dwaa' | 'dwab';
  readonly channels: readonly ExrChannelData[];
  /** Written as attributes of type string, int or float. */
  readonly metadata: Readonly<Record<string, string | { int: number } | { float: number }>>;
  /** Attributes of another file's header, which are written as they are. */
  readonly kept?: ReadonlyMap<string, ExrAttribute>;
}

/** Names that are longer have to be announced. */
const SHORT_NAME = 31;
const LONG_NAMES = 4;
const MULTI_PART = 0x10;

const CODES = { none: 0, rle: 1, zips: 2, zip: 3, piz: 4, pxr24: 5, b44: 6, dwaa: 8, dwab: 9 } as const;

/** Writes a picture as EXR. The same input gives the same bytes. */
export function encodeExr(picture: ExrPicture, tools: EncoderTools): Uint8Array {
  return encodeExrParts([picture], tools);
}

/** The same of several pictures, a part each. Their names differ, and their display windows and pixel aspects are one, as the format asks. */
export function encodeExrParts(pictures: readonly ExrPicture[], tools: EncoderTools): Uint8Array {
  // Channels stand in the order of their names, in the list and in every line.
  const parts = pictures.map((picture) => ({ ...picture, channels: [...picture.channels].sort((a, b) => (a.name < b.name ? -1 : 1)) }));
  const isMulti = parts.length > 1;
  const chunks = parts.map((part, index) => makeChunks(part, isMulti ? index : null, tools));
  const headers = parts.map((part, index) => writeHeader(part, isMulti ? chunks[index]!.length : null));
  const names = parts.flatMap(({ kept, channels, metadata }) => [
    ...[...(kept ?? [])].flatMap(([name, { type }]) => [name, type]),
    ...channels.map(({ name }) => name),
    ...Object.keys(metadata),
  ]);
  const flags = (names.some((name) => name.length > SHORT_NAME) ? LONG_NAMES : 0) | (isMulti ? MULTI_PART : 0);
  return joinFile([Uint8Array.of(...EXR_MAGIC, 2, flags, 0, 0), ...headers, ...(isMulti ? [Uint8Array.of(0)] : [])], chunks);
}

function makeChunks(picture: ExrPicture, part: number | null, tools: EncoderTools): Uint8Array[] {
  const { channels, compression } = picture;
  const [left, top, right, bottom] = picture.dataWindow;
  const width = right - left + 1;
  const height = bottom - top + 1;
  const rows = channels.map((channel) => new Uint8Array(channel.data.buffer, channel.data.byteOffset, channel.data.byteLength));
  const rowBytes = channels.map((channel) => width * channel.data.BYTES_PER_ELEMENT);
  const lineBytes = rowBytes.reduce((sum, bytes) => sum + bytes, 0);
  const linesPerChunk = LINES_PER_CHUNK[compression];
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
    const layout = (): ChunkLayout => ({
      ...{ top: top + row, height: lines, size: pixels.length },
      channels: channels.map((channel) => chunkChannel(channel, width, lines)),
    });
    chunks.push(writeChunk(part, top + row, pack(pixels, compression, layout, tools) ?? pixels));
  }
  return chunks;
}

const chunkChannel = ({ name, type, data }: ExrChannelData, across: number, lines: number) => ({
  ...{ name, type, across, lines, sampleBytes: data.BYTES_PER_ELEMENT },
  ...{ perceptuallyLinear: false, xSampling: 1, ySampling: 1 },
});

/** Null where packing does not make it smaller: then pixels stand as they are. */
function pack(pixels: Uint8Array, compression: ExrPicture['compression'], layout: () => ChunkLayout, tools: EncoderTools): Uint8Array | null {
  switch (compression) {
    case 'none':
      return null;
    case 'rle':
      return packRle(pixels);
    case 'zips':
    case 'zip':
      return packZip(pixels, tools);
    case 'piz':
      return packPiz(pixels, layout());
    case 'pxr24':
      return packPxr24(pixels, layout(), tools);
    case 'b44':
      return packB44(pixels, layout());
    case 'dwaa':
    case 'dwab':
      return packDwa(pixels, layout(), tools);
  }
}

function writeChunk(part: number | null, y: number, data: Uint8Array): Uint8Array {
  const words = [...(part === null ? [] : [part]), y, data.length];
  const chunk = new Uint8Array(4 * words.length + data.length);
  const view = new DataView(chunk.buffer);
  words.forEach((word, i) => view.setInt32(4 * i, word, true));
  chunk.set(data, 4 * words.length);
  return chunk;
}

/** Magic and headers, then a table of offsets for each part, then all chunks. */
function joinFile(heads: readonly Uint8Array[], parts: readonly (readonly Uint8Array[])[]): Uint8Array {
  const headEnd = heads.reduce((sum, { length }) => sum + length, 0);
  const chunks = parts.flat();
  const tableEnd = headEnd + chunks.length * 8;
  const out = new Uint8Array(tableEnd + chunks.reduce((sum, chunk) => sum + chunk.length, 0));
  const view = new DataView(out.buffer);
  let position = 0;
  for (const head of heads) {
    out.set(head, position);
    position += head.length;
  }
  position = tableEnd;
  chunks.forEach((chunk, i) => {
    view.setBigUint64(headEnd + i * 8, BigInt(position), true);
    out.set(chunk, position);
    position += chunk.length;
  });
  return out;
}

/** @param chunks how many the part has, where the file has several parts; null for the only one */
function writeHeader(picture: ExrPicture, chunks: number | null): Uint8Array {
  const kept = picture.kept ?? new Map<string, ExrAttribute>();
  const bytes: number[] = [];
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
  const list = picture.channels.flatMap((channel) => [...text(channel.name), 0, ...int(typeCodes[channel.type]), 0, 0, 0, 0, ...int(1), ...int(1)]);
  attribute('channels', 'chlist', [...list, 0]);
  attribute('compression', 'compression', [CODES[picture.compression]]);
  attribute('dataWindow', 'box2i', picture.dataWindow.flatMap(int));
  attribute('displayWindow', 'box2i', picture.displayWindow.flatMap(int));
  attribute('lineOrder', 'lineOrder', [0]);
  attribute('pixelAspectRatio', 'float', float(picture.pixelAspect));
  if (!kept.has('screenWindowCenter')) attribute('screenWindowCenter', 'v2f', [...float(0), ...float(0)]);
  if (!kept.has('screenWindowWidth')) attribute('screenWindowWidth', 'float', float(1));
  if (chunks !== null) {
    attribute('name', 'string', text(picture.name!));
    attribute('type', 'string', text('scanlineimage'));
    attribute('chunkCount', 'int', int(chunks));
  }
  for (const [name, { type, value }] of kept) if (!(name in picture.metadata)) attribute(name, type, value);
  for (const [name, value] of Object.entries(picture.metadata)) {
    if (typeof value === 'string') attribute(name, 'string', text(value));
    else if ('int' in value) attribute(name, 'int', int(value.int));
    else attribute(name, 'float', float(value.float));
  }
  bytes.push(0);
  return Uint8Array.from(bytes);
}
