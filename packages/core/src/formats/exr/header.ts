import { ByteReader, PastEndError, type ByteSource } from '../byte-source.ts';
import { FrameFileError } from '../errors.ts';
import type { ChannelInfo, FrameHeader, PixelWindow } from '../frame.ts';
import { readMetadataValue } from './metadata.ts';

/** EXR is read after "OpenEXR File Layout" (Academy Software Foundation); names in this room are its. */
export const EXR_MAGIC = Uint8Array.of(0x76, 0x2f, 0x31, 0x01);

/** The compressions, in the order of their codes. */
export const COMPRESSIONS = ['none', 'rle', 'zips', 'zip', 'piz', 'pxr24', 'b44', 'b44a', 'dwaa', 'dwab'] as const;
export type ExrCompression = (typeof COMPRESSIONS)[number];

/** Scan lines in one chunk, by compression. */
export const LINES_PER_CHUNK: Record<ExrCompression, number> = {
  none: 1,
  rle: 1,
  zips: 1,
  zip: 16,
  piz: 32,
  pxr24: 16,
  b44: 32,
  b44a: 32,
  dwaa: 32,
  dwab: 256,
};

export interface ExrChannel {
  readonly name: string;
  readonly type: 'uint' | 'half' | 'float';
  readonly xSampling: number;
  readonly ySampling: number;
  /** The flag pLinear, which the lossy compressions heed. */
  readonly perceptuallyLinear: boolean;
}

export interface ExrTiles {
  readonly width: number;
  readonly height: number;
  readonly levels: 'one' | 'mipmap' | 'ripmap';
  readonly roundUp: boolean;
}

/** One part of a file; most files have one. */
export interface ExrPart {
  readonly name: string;
  readonly channels: readonly ExrChannel[];
  readonly compression: ExrCompression;
  readonly dataWindow: PixelWindow;
  readonly displayWindow: PixelWindow;
  readonly pixelAspect: number;
  readonly tiles: ExrTiles | null;
  readonly deep: boolean;
  readonly linesPerChunk: number;
  /** From the attribute of that name; only files of several parts have to state it. */
  readonly statedChunkCount: number | null;
  /** What the header leaves out or says in vain, and what is taken instead. */
  readonly assumed: readonly string[];
  readonly metadata: Readonly<Record<string, string | number>>;
  /** All that the header says, as it stands there. */
  readonly attributes: ReadonlyMap<string, ExrAttribute>;
}

/** An attribute of a header: its type, and its value's bytes. */
export interface ExrAttribute {
  readonly type: string;
  readonly value: Uint8Array;
}

export interface ExrHeader {
  readonly parts: readonly ExrPart[];
  readonly multiPart: boolean;
  /** Where the chunk tables begin. */
  readonly tableOffset: number;
}

const FLAG_TILED = 0x200;
const FLAG_LONG_NAMES = 0x400;
const FLAG_DEEP = 0x800;
const FLAG_MULTI_PART = 0x1000;
const KNOWN_FLAGS = FLAG_TILED | FLAG_LONG_NAMES | FLAG_DEEP | FLAG_MULTI_PART;

const FIRST_READ = 16 * 1024;
const MAXIMUM_HEADER = 64 * 2 ** 20;
const MAXIMUM_PARTS = 1000;
const MAXIMUM_ATTRIBUTES = 10_000;
const MAXIMUM_CHANNELS = 10_000;
const MAXIMUM_COORDINATE = 2 ** 30;

/** Reads the header of every part. @throws FrameFileError */
export function readExrHeader(source: ByteSource): ExrHeader {
  let length = Math.min(source.size, FIRST_READ);
  for (;;) {
    try {
      return parseHeader(source.read(0, length));
    } catch (thrown) {
      if (!(thrown instanceof PastEndError) || length === source.size) throw thrown;
      if (length >= MAXIMUM_HEADER) throw new FrameFileError('corrupt', 'The header is larger than 64 MiB.');
      length = Math.min(source.size, length * 4);
    }
  }
}

function parseHeader(bytes: Uint8Array): ExrHeader {
  const reader = new ByteReader(bytes, { littleEndian: true });
  if (!EXR_MAGIC.every((byte) => reader.uint8() === byte)) throw new FrameFileError('corrupt', 'The file does not begin like an EXR file.');
  const versionField = reader.uint32();
  const flags = versionField & ~0xff;
  if ((versionField & 0xff) !== 2 || (flags & ~KNOWN_FLAGS) !== 0) {
    throw new FrameFileError('corrupt', `The version field 0x${versionField.toString(16)} is none that EXR has.`);
  }
  const multiPart = (flags & FLAG_MULTI_PART) !== 0;
  const parts: ExrPart[] = [];
  do {
    if (parts.length >= MAXIMUM_PARTS) throw new FrameFileError('corrupt', `There are more than ${MAXIMUM_PARTS} parts.`);
    const attributes = readAttributes(reader, (flags & FLAG_LONG_NAMES) !== 0 ? 255 : 31);
    parts.push(makePart(attributes, flags));
  } while (multiPart && bytes[reader.position] !== 0 && ensureMore(reader));
  if (multiPart) reader.uint8();
  return { parts, multiPart, tableOffset: reader.position };
}

function ensureMore(reader: ByteReader): true {
  if (reader.remaining < 1) throw new PastEndError();
  return true;
}

function readAttributes(reader: ByteReader, maximumName: number): Map<string, ExrAttribute> {
  const attributes = new Map<string, ExrAttribute>();
  for (;;) {
    const name = reader.zeroEndedText(maximumName, 'An attribute name');
    if (name === '') return attributes;
    if (attributes.size >= MAXIMUM_ATTRIBUTES) throw new FrameFileError('corrupt', 'The header has over 10,000 attributes.');
    const type = reader.zeroEndedText(maximumName, `The type of the attribute ${name}`);
    const size = reader.int32();
    if (size < 0) throw new FrameFileError('corrupt', `The attribute ${name} gives an impossible size, ${size}.`);
    if (size > MAXIMUM_HEADER) throw new FrameFileError('corrupt', `The attribute ${name} claims ${size} bytes.`);
    attributes.set(name, { type, value: reader.take(size) });
  }
}

function makePart(attributes: Map<string, ExrAttribute>, flags: number): ExrPart {
  const need = (name: string, type: string, size: number | null): ByteReader => {
    const attribute = attributes.get(name);
    if (!attribute) throw new FrameFileError('corrupt', `The header lacks the attribute ${name}.`);
    if (attribute.type !== type || (size !== null && attribute.value.length !== size)) {
      throw new FrameFileError('corrupt', `The attribute ${name} is not a proper ${type}.`);
    }
    return new ByteReader(attribute.value, { littleEndian: true });
  };
  const textOf = (name: string) => {
    const attribute = attributes.get(name);
    return attribute?.type === 'string' ? new TextDecoder().decode(attribute.value) : '';
  };
  const compression = COMPRESSIONS[need('compression', 'compression', 1).uint8()];
  if (!compression) throw new FrameFileError('corrupt', 'The header names a compression that EXR does not have.');
  const assumed: string[] = [];
  const { deep, tiled } = kindOfPart(textOf('type'), flags, assumed);
  // Required by the layout, and left out by a common encoder whose input has none.
  if (!attributes.has('pixelAspectRatio')) assumed.push('The header does not give the shape of a pixel; square pixels are taken.');
  const pixelAspect = attributes.has('pixelAspectRatio') ? need('pixelAspectRatio', 'float', 4).float32() : 1;
  if (!(pixelAspect > 0) || !Number.isFinite(pixelAspect)) throw new FrameFileError('corrupt', `The pixel aspect ${pixelAspect} is impossible.`);
  need('lineOrder', 'lineOrder', 1);
  const metadata: Record<string, string | number> = {};
  for (const [name, attribute] of attributes) {
    const value = readMetadataValue(attribute.type, attribute.value);
    if (value !== null) metadata[name] = value;
  }
  const dataWindow = readWindow(need('dataWindow', 'box2i', 16), 'data window');
  return {
    name: textOf('name'),
    channels: readChannels(need('channels', 'chlist', null), dataWindow),
    compression,
    dataWindow,
    displayWindow: readWindow(need('displayWindow', 'box2i', 16), 'display window'),
    pixelAspect,
    tiles: tiled ? readTiles(need('tiles', 'tiledesc', 9)) : null,
    deep,
    linesPerChunk: LINES_PER_CHUNK[compression],
    statedChunkCount: attributes.has('chunkCount') ? need('chunkCount', 'int', 4).int32() : null,
    assumed,
    metadata,
    attributes,
  };
}

/**
 * Whether a part is deep, and whether it is in tiles. With several parts in a file, each says so by its `type`, and
 * the flags say only that some part is deep; a single part's flags decide, and a `type` that contradicts them is
 * passed over, as the reference library does ("OpenEXR File Layout", section "Version Field").
 */
function kindOfPart(type: string, flags: number, assumed: string[]): { deep: boolean; tiled: boolean } {
  const byType = { deep: type.startsWith('deep'), tiled: type === 'tiledimage' || type === 'deeptile' };
  if ((flags & FLAG_MULTI_PART) !== 0) return byType;
  const deep = (flags & FLAG_DEEP) !== 0;
  const tiled = deep ? byType.tiled : (flags & FLAG_TILED) !== 0;
  if (type !== '' && (byType.deep !== deep || byType.tiled !== tiled))
    assumed.push(`The header calls its part ${type}, which its flags contradict; the flags count.`);
  return { deep, tiled };
}

function readWindow(reader: ByteReader, what: string): PixelWindow {
  const window = [reader.int32(), reader.int32(), reader.int32(), reader.int32()] as const;
  const [left, top, right, bottom] = window;
  if (right < left || bottom < top || window.some((value) => Math.abs(value) > MAXIMUM_COORDINATE)) {
    throw new FrameFileError('corrupt', `The ${what} (${left}, ${top}) to (${right}, ${bottom}) is impossible.`);
  }
  return window;
}

function readChannels(reader: ByteReader, dataWindow: PixelWindow): ExrChannel[] {
  const channels: ExrChannel[] = [];
  const broken = (why: string) => new FrameFileError('corrupt', `The channel list is damaged: ${why}.`);
  try {
    for (;;) {
      const name = reader.zeroEndedText(255, 'A channel name');
      if (name === '') break;
      if (channels.length >= MAXIMUM_CHANNELS) throw broken('it has over 10,000 channels');
      const type = (['uint', 'half', 'float'] as const)[reader.int32()];
      if (!type) throw broken(`${name} has an unknown type`);
      const perceptuallyLinear = reader.uint8() !== 0;
      reader.take(3);
      const [xSampling, ySampling] = [reader.int32(), reader.int32()];
      if (xSampling < 1 || ySampling < 1 || dataWindow[0] % xSampling !== 0 || dataWindow[1] % ySampling !== 0) {
        throw broken(`${name} has an impossible sampling`);
      }
      channels.push({ name, type, xSampling, ySampling, perceptuallyLinear });
    }
  } catch (thrown) {
    if (thrown instanceof PastEndError) throw broken('it has no end');
    throw thrown;
  }
  if (channels.length === 0) throw broken('it is empty');
  return channels;
}

function readTiles(reader: ByteReader): ExrTiles {
  const [width, height, mode] = [reader.uint32(), reader.uint32(), reader.uint8()];
  const levels = (['one', 'mipmap', 'ripmap'] as const)[mode & 0x0f];
  if (!levels || mode >> 4 > 1 || width < 1 || height < 1 || width > MAXIMUM_COORDINATE || height > MAXIMUM_COORDINATE) {
    throw new FrameFileError('corrupt', 'The tile description is impossible.');
  }
  return { width, height, levels, roundUp: mode >> 4 === 1 };
}

/** The header in the words that all formats share. Parts beyond the first add their channels. */
export function exrFrameHeader(header: ExrHeader): FrameHeader {
  const first = header.parts[0]!;
  const [left, top, right, bottom] = first.displayWindow;
  return {
    format: 'exr',
    width: right - left + 1,
    height: bottom - top + 1,
    pixelAspect: first.pixelAspect,
    channels: header.parts.flatMap((part) => part.channels.map((channel): ChannelInfo => ({ name: channelPath(header, part, channel), depth: channel.type }))),
    namedChannels: true,
    compression: first.compression,
    dataWindow: first.dataWindow,
    displayWindow: first.displayWindow,
    blocks: first.tiles ? [first.tiles.width, first.tiles.height] : [partWidth(first), first.linesPerChunk],
    assumed: [...new Set(header.parts.flatMap((part) => part.assumed))],
    metadata: first.metadata,
  };
}

function partWidth({ dataWindow }: ExrPart): number {
  return dataWindow[2] - dataWindow[0] + 1;
}

/** A channel's name in the file: in a file of several parts, a bare name gets its part's before it. */
export function channelPath(header: ExrHeader, part: ExrPart, channel: ExrChannel): string {
  return header.multiPart && header.parts.length > 1 && part.name !== '' ? `${part.name}.${channel.name}` : channel.name;
}
