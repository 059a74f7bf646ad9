import type { ByteSource } from '../byte-source.ts';
import { FrameFileError } from '../errors.ts';

/** TIFF is read after "TIFF Revision 6.0" (1992), its Technical Note 3 (float predictor) and the BigTIFF proposal. */
export const TAG = {
  width: 256,
  height: 257,
  bitsPerSample: 258,
  compression: 259,
  photometric: 262,
  fillOrder: 266,
  description: 270,
  make: 271,
  model: 272,
  stripOffsets: 273,
  samplesPerPixel: 277,
  rowsPerStrip: 278,
  stripByteCounts: 279,
  resolutionX: 282,
  resolutionY: 283,
  planar: 284,
  software: 305,
  dateTime: 306,
  artist: 315,
  hostComputer: 316,
  predictor: 317,
  colourMap: 320,
  tileWidth: 322,
  tileHeight: 323,
  tileOffsets: 324,
  tileByteCounts: 325,
  extraSamples: 338,
  sampleFormat: 339,
  chromaSubsampling: 530,
} as const;

/** Bytes of a value of each field type (section 2; 16 to 18 are BigTIFF's). */
const TYPE_BYTES: Record<number, number> = { 1: 1, 2: 1, 3: 2, 4: 4, 5: 8, 6: 1, 7: 1, 8: 2, 9: 4, 10: 8, 11: 4, 12: 8, 13: 4, 16: 8, 17: 8, 18: 8 };

/** A field's place: where its values lie, and how many. */
export interface TiffField {
  readonly type: number;
  readonly count: number;
  readonly offset: number;
}

export interface TiffDirectory {
  readonly fields: ReadonlyMap<number, TiffField>;
  readonly offset: number;
  /** First byte behind the directory itself. */
  readonly end: number;
  /** Offset of the directory after this one; 0 for none. */
  readonly next: number;
}

/** How the numbers of a file are written. */
export interface TiffLayout {
  readonly littleEndian: boolean;
  readonly big: boolean;
  readonly firstDirectory: number;
}

const MAXIMUM_FIELDS = 4096;
/** Values of one field that are read; longer lists belong to nothing that a frame has. */
const MAXIMUM_VALUES = 2 ** 24;

/** Reads the eight or sixteen bytes that a TIFF begins with. @throws FrameFileError */
export function readTiffLayout(source: ByteSource): TiffLayout {
  if (source.size < 8) throw cutInHeader(source);
  const start = source.read(0, 8);
  const littleEndian = start[0] === 0x49;
  const view = new DataView(start.buffer, start.byteOffset, 8);
  const version = view.getUint16(2, littleEndian);
  if (version === 42) return { littleEndian, big: false, firstDirectory: view.getUint32(4, littleEndian) };
  if (version !== 43) throw new FrameFileError('corrupt', `The version ${version} is none that TIFF has.`);
  if (source.size < 16) throw cutInHeader(source);
  if (view.getUint16(4, littleEndian) !== 8) throw new FrameFileError('corrupt', 'The file uses offsets of a size that TIFF does not have.');
  const offset = source.read(8, 8);
  return { littleEndian, big: true, firstDirectory: Number(new DataView(offset.buffer, offset.byteOffset, 8).getBigUint64(0, littleEndian)) };
}

function cutInHeader(source: ByteSource): FrameFileError {
  return new FrameFileError('truncated', `The file ends inside its header, after ${source.size} bytes.`);
}

/** Reads one directory. @throws FrameFileError */
export function readDirectory(source: ByteSource, layout: TiffLayout, offset: number): TiffDirectory {
  const { littleEndian, big } = layout;
  const [countBytes, entryBytes, offsetBytes] = big ? [8, 20, 8] : [2, 12, 4];
  if (offset + countBytes > source.size) {
    throw new FrameFileError('truncated', `The file ends after ${source.size} bytes; its directory stands at byte ${offset}.`);
  }
  const head = viewOf(source.read(offset, countBytes));
  const count = big ? Number(head.getBigUint64(0, littleEndian)) : head.getUint16(0, littleEndian);
  if (count < 1 || count > MAXIMUM_FIELDS) throw new FrameFileError('corrupt', `The directory at byte ${offset} claims ${count} fields.`);
  const end = offset + countBytes + count * entryBytes + offsetBytes;
  if (end > source.size) throw new FrameFileError('truncated', `The file ends after ${source.size} bytes, inside its directory.`);
  const view = viewOf(source.read(offset + countBytes, count * entryBytes + offsetBytes));
  const readOffset = (at: number) => (big ? Number(view.getBigUint64(at, littleEndian)) : view.getUint32(at, littleEndian));
  const fields = new Map<number, TiffField>();
  for (let i = 0; i < count; i++) {
    const at = i * entryBytes;
    const type = view.getUint16(at + 2, littleEndian);
    const values = readOffset(at + 4);
    const valueAt = at + 4 + offsetBytes;
    const inline = (TYPE_BYTES[type] ?? 1) * values <= offsetBytes;
    fields.set(view.getUint16(at, littleEndian), { type, count: values, offset: inline ? offset + countBytes + valueAt : readOffset(valueAt) });
  }
  return { fields, offset, end, next: readOffset(count * entryBytes) };
}

function viewOf(bytes: Uint8Array): DataView {
  return new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
}

/** First byte behind a field's values. */
export function fieldEnd(field: TiffField): number {
  return field.offset + (TYPE_BYTES[field.type] ?? 1) * field.count;
}

/** A field's numbers; empty where the field is absent or holds none. @throws FrameFileError */
export function readNumbers(source: ByteSource, layout: TiffLayout, field: TiffField | undefined): number[] {
  if (!field) return [];
  const size = TYPE_BYTES[field.type];
  if (!size) return [];
  if (field.count > MAXIMUM_VALUES) throw new FrameFileError('corrupt', `A field of the directory claims ${field.count} values.`);
  if (fieldEnd(field) > source.size) {
    throw new FrameFileError('truncated', `The file ends after ${source.size} bytes; values of its directory stand at byte ${field.offset}.`);
  }
  const view = viewOf(source.read(field.offset, size * field.count));
  const { littleEndian } = layout;
  return Array.from({ length: field.count }, (_, i) => {
    const at = i * size;
    return READERS[field.type]?.(view, at, littleEndian) ?? view.getUint8(at);
  });
}

/** How a value of each field type is read (section 2), signed types as signed; the others are bytes. */
const READERS: Readonly<Record<number, (view: DataView, at: number, littleEndian: boolean) => number>> = {
  3: (view, at, little) => view.getUint16(at, little),
  4: (view, at, little) => view.getUint32(at, little),
  5: (view, at, little) => view.getUint32(at, little) / view.getUint32(at + 4, little),
  6: (view, at) => view.getInt8(at),
  8: (view, at, little) => view.getInt16(at, little),
  9: (view, at, little) => view.getInt32(at, little),
  10: (view, at, little) => view.getInt32(at, little) / view.getInt32(at + 4, little),
  11: (view, at, little) => view.getFloat32(at, little),
  12: (view, at, little) => view.getFloat64(at, little),
  13: (view, at, little) => view.getUint32(at, little),
  16: (view, at, little) => Number(view.getBigUint64(at, little)),
  17: (view, at, little) => Number(view.getBigInt64(at, little)),
  18: (view, at, little) => Number(view.getBigUint64(at, little)),
};

const MAXIMUM_TEXT = 4096;

/** A short text; null where there is none. */
export function readText(source: ByteSource, field: TiffField | undefined): string | null {
  if (!field || field.type !== 2 || field.count > MAXIMUM_TEXT || fieldEnd(field) > source.size) return null;
  return (
    new TextDecoder()
      .decode(source.read(field.offset, field.count))
      .replace(/\0[^]*$/, '')
      .trim() || null
  );
}
