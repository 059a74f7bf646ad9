import type { SampleDepth } from '../brief/index.ts';
import type { ByteSource } from './byte-source.ts';

/** The helpers that a format needs from its surroundings (Node's zlib, or a browser's own). */
export interface CodecTools {
  /**
   * Inflates a zlib stream (RFC 1950). Must stop and throw beyond `maximumLength` bytes, and
   * throw on a damaged stream.
   */
  inflate(data: Uint8Array, maximumLength: number): Uint8Array;
  /** CRC-32 as in PNG and zlib (ISO 3309). */
  crc32(data: Uint8Array): number;
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
  readonly depth: SampleDepth | '1' | '2' | '4' | 'double';
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
  /** How the file itself says that its alpha is meant; absent where the format has no words for it. */
  readonly alphaKind?: 'straight' | 'premultiplied' | null;
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

/**
 * A file format of frames. Every format is a room of the same shape: header, check, decode, and
 * encode where we write it.
 */
export interface FrameFormat {
  readonly name: string;
  readonly extensions: readonly string[];
  /**
   * Set where a format has no signature: what its first bytes say is then only asked of files
   * whose extension promises it.
   */
  readonly withoutSignature?: true;
  /** Whether these first bytes (18 or fewer) begin such a file. */
  recognises(firstBytes: Uint8Array): boolean;
  /** Reads what the file says about itself. @throws FrameFileError */
  readHeader(source: ByteSource): FrameHeader;
  /**
   * Proves the file whole without its pixels, reading as little as possible.
   * @throws FrameFileError when it is not
   */
  checkStructure(source: ByteSource): StructureReport;
  /**
   * Checks every byte and decodes every pixel.
   * @throws FrameFileError when the file is damaged, NotDecodedError when it cannot be looked into
   */
  decode(bytes: Uint8Array, tools: CodecTools): { frame: DecodedFrame; report: StructureReport };
}

/** No frame larger than this is decoded: it would not fit beside the others in memory. */
export const MAXIMUM_DECODED_BYTES = 2 ** 30;
