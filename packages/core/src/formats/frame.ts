import type { Rectangle } from './salvage.ts';
import type { ByteSource } from './byte-source.ts';
import type { StoredDepth } from './depths.ts';
import { NotDecodedError } from './errors.ts';
import type { FrameKind } from './kind.ts';

/** The helpers that a format needs from its surroundings (Node's zlib, or a browser's own). */
export interface CodecTools {
  /**
   * Inflates a zlib stream (RFC 1950). Must stop beyond `maximumLength` bytes.
   * @throws PackedDataError on a damaged stream, and on one that gives more
   */
  inflate(data: Uint8Array, maximumLength: number): Uint8Array;
  /** CRC-32 as in PNG and zlib (ISO 3309). */
  crc32(data: Uint8Array): number;
}

/** What is needed to have as much of a damaged file as can be. */
export interface SalvageTools extends CodecTools {
  /** Inflates the beginning of a zlib stream that is cut or damaged, as far as it goes; nothing where it goes nowhere. */
  inflateStart(data: Uint8Array, maximumLength: number): Uint8Array;
}

/** What an encoder needs. */
export interface EncoderTools {
  /** Makes a zlib stream (RFC 1950). */
  deflate(data: Uint8Array): Uint8Array;
  crc32(data: Uint8Array): number;
}

/** An inclusive pixel rectangle: left, top, right, bottom. */
export type PixelWindow = readonly [number, number, number, number];

/** One channel as the file names it. */
export interface ChannelInfo {
  readonly name: string;
  readonly depth: StoredDepth;
}

/** What a file says about itself, the same for every format. */
export interface FrameHeader {
  readonly format: string;
  /** Size of the picture (EXR: of the display window), in pixels. */
  readonly width: number;
  readonly height: number;
  readonly pixelAspect: number | null;
  readonly channels: readonly ChannelInfo[];
  /** Whether the channel names are the file's own; a PNG has none, and only their number counts. */
  readonly namedChannels: boolean;
  readonly compression: string;
  readonly dataWindow: PixelWindow | null;
  readonly displayWindow: PixelWindow | null;
  /** Width and height of the blocks in which the file keeps its pixels (tiles, strips, chunks of lines); absent where it keeps them line by line. */
  readonly blocks?: readonly [number, number];
  /** How the file itself says that its alpha is meant; absent where the format has no words for it. */
  readonly alphaKind?: 'straight' | 'premultiplied' | null;
  /** What the file leaves out or says in vain, and what is taken instead; absent where there is nothing of the kind. */
  readonly assumed?: readonly string[];
  /** Things the writer noted: camera, host, renderer, samples. Small values only. */
  readonly metadata: Readonly<Record<string, string | number>>;
}

/** Sample storage of a decoded plane. `half` holds the 16 bits as they are in the file. */
export type PlaneType = 'u8' | 'u16' | 'half' | 'float' | 'uint';

/** One channel's pixels: the value at (x, y) is `data[offset + (y * width + x) * stride]`. */
export interface Plane {
  readonly channel: string;
  readonly type: PlaneType;
  readonly width: number;
  readonly height: number;
  readonly data: Uint8Array | Uint16Array | Float32Array | Uint32Array;
  readonly offset: number;
  readonly stride: number;
}

/** A decoded frame: its planes, with the place of their corner in the picture. */
export interface DecodedFrame {
  readonly header: FrameHeader;
  readonly planes: readonly Plane[];
}

/** What a look at a file's structure gives besides the header. */
export interface StructureReport {
  /** Bytes behind the end of the picture. */
  readonly trailingBytes: number;
  /** What of the file could not be looked into, although its first picture could. */
  readonly notExamined?: string;
  /** Told by a decode: where pixels lie as they are; absent where all are packed. */
  readonly plain?: readonly PlainPixels[];
}

/** A stretch of pixels that a file holds unpacked, line after line. */
export interface PlainPixels {
  /** First byte, and the one behind the last. */
  readonly start: number;
  readonly end: number;
  /** From a line to the next. */
  readonly lineBytes: number;
}

/** What a full look gives: the pixels, and what is said of the file besides. */
export interface Decoded {
  readonly frame: DecodedFrame;
  readonly report: StructureReport;
}

/** What could be had of a damaged file. */
export interface Salvaged {
  /** Zero where nothing could be read. */
  readonly frame: DecodedFrame;
  /** Where nothing could be read, or nothing that can be trusted, in pixels of the first part's data window. */
  readonly damage: readonly Rectangle[];
}

/** A file whose header has been read. */
export interface OpenFrame {
  readonly header: FrameHeader;
  /**
   * Proves the file whole without its pixels, reading as little as possible.
   * @throws FrameFileError when it is not
   */
  check(): StructureReport;
  /**
   * Reads all of the file, checks every byte and decodes every pixel.
   * @throws FrameFileError when the file is damaged, NotDecodedError when it cannot be looked into
   */
  decode(tools: CodecTools): Decoded;
  /**
   * Decodes as much of a damaged file as can be.
   * @throws FrameFileError when nothing can be had, NotDecodedError when it cannot be looked into
   */
  salvage(tools: SalvageTools): Salvaged;
}

/** A file format of frames. Every format is a room of the same shape: kind, header, check, decode, and encode where we write it. */
export interface FrameFormat extends FrameKind {
  /**
   * Set where a format has no signature: what its first bytes say is then only asked of files
   * whose extension promises it.
   */
  readonly withoutSignature?: true;
  /** Whether these first bytes (18 or fewer) begin such a file. */
  recognises(firstBytes: Uint8Array): boolean;
  /** Reads what the file says about itself, once. @throws FrameFileError, NotDecodedError */
  open(source: ByteSource): OpenFrame;
}

/** No file is decoded to more than this: it would not fit beside the others in memory. */
const MAXIMUM_DECODED_BYTES = 2 ** 30;

/**
 * Turns away what would decode to too much.
 *
 * @param bytes of all planes together, and of what is held beside them
 * @throws NotDecodedError
 */
export function boundDecoded(bytes: number, width: number, height: number): void {
  if (bytes > MAXIMUM_DECODED_BYTES) throw new NotDecodedError(`The picture of ${width} x ${height} pixels is too large to look into.`);
}
