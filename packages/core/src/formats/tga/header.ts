import { ByteReader, type ByteSource } from '../byte-source.ts';
import { FrameFileError } from '../errors.ts';
import type { ChannelInfo, FrameHeader } from '../frame.ts';

/** TGA is read after "Truevision TGA File Format Specification", version 2.0 (1991). */
export const TGA_HEADER_BYTES = 18;
const FOOTER_BYTES = 26;
export const FOOTER_SIGNATURE = 'TRUEVISION-XFILE.\0';

export interface TgaImage {
  readonly width: number;
  readonly height: number;
  /** Bits of a stored pixel, or of an index into the palette. */
  readonly pixelBits: 8 | 15 | 16 | 24 | 32;
  readonly alphaBits: number;
  readonly kind: 'palette' | 'colour' | 'grey';
  readonly runs: boolean;
  readonly topDown: boolean;
  readonly rightToLeft: boolean;
  readonly palette: { readonly first: number; readonly length: number; readonly bits: number; readonly offset: number } | null;
  /** Where the pixels begin. */
  readonly pixelOffset: number;
  /** Whether the file ends with the footer of version 2, which accounts for whatever stands before it. */
  readonly hasFooter: boolean;
  readonly alphaKind: 'straight' | 'premultiplied' | null;
}

const KINDS: Record<number, TgaImage['kind']> = { 1: 'palette', 2: 'colour', 3: 'grey' };

/** Whether 18 bytes make sense as a header; the format has no signature to go by. */
export function looksLikeTga(bytes: Uint8Array): boolean {
  if (bytes.length < TGA_HEADER_BYTES) return false;
  const [, paletteType, type] = bytes;
  const kind = KINDS[type & 7];
  if (!kind || (type !== (type & 7) && type !== (type & 7) + 8) || paletteType > 1 || (kind === 'palette') !== (paletteType === 1)) return false;
  return [8, 15, 16, 24, 32].includes(bytes[16]) && (bytes[17] & 0xc0) === 0;
}

/** Reads header and footer. @throws FrameFileError */
export function readTgaImage(source: ByteSource): TgaImage {
  if (source.size < TGA_HEADER_BYTES) throw new FrameFileError('truncated', `The file ends inside its header, after ${source.size} bytes.`);
  const bytes = source.read(0, TGA_HEADER_BYTES);
  if (!looksLikeTga(bytes)) throw new FrameFileError('corrupt', 'The file does not begin like a TGA file.');
  const word = (at: number) => bytes[at] | (bytes[at + 1] << 8);
  const [width, height] = [word(12), word(14)];
  if (width === 0 || height === 0) throw new FrameFileError('corrupt', `The header gives an impossible size, ${width} x ${height}.`);
  const kind = KINDS[bytes[2] & 7]!;
  const pixelBits = bytes[16] as TgaImage['pixelBits'];
  // Grey of 16 bits is a byte of grey and one of alpha.
  if (kind !== 'colour' && pixelBits !== 8 && !(kind === 'grey' && pixelBits === 16))
    throw new FrameFileError('corrupt', `The header gives ${pixelBits} bits for a ${kind} picture.`);
  if (kind === 'colour' && pixelBits === 8) throw new FrameFileError('corrupt', 'The header gives 8 bits for a colour picture.');
  const paletteOffset = TGA_HEADER_BYTES + bytes[0];
  const paletteBytes = bytes[1] === 1 ? word(5) * Math.ceil(bytes[7] / 8) : 0;
  if (bytes[1] === 1 && ![15, 16, 24, 32].includes(bytes[7])) throw new FrameFileError('corrupt', `The palette has entries of ${bytes[7]} bits.`);
  const footer = readFooter(source);
  return {
    width,
    height,
    pixelBits,
    alphaBits: bytes[17] & 0x0f,
    kind,
    runs: bytes[2] > 8,
    topDown: (bytes[17] & 0x20) !== 0,
    rightToLeft: (bytes[17] & 0x10) !== 0,
    palette: bytes[1] === 1 ? { first: word(3), length: word(5), bits: bytes[7]!, offset: paletteOffset } : null,
    pixelOffset: paletteOffset + paletteBytes,
    hasFooter: footer !== null,
    alphaKind: footer === null ? null : readAlphaKind(source, footer),
  };
}

/** Offset of the extension area; null without a footer. */
function readFooter(source: ByteSource): number | null {
  if (source.size < TGA_HEADER_BYTES + FOOTER_BYTES) return null;
  const bytes = source.read(source.size - FOOTER_BYTES, FOOTER_BYTES);
  if (![...FOOTER_SIGNATURE].every((letter, i) => bytes[8 + i] === letter.charCodeAt(0))) return null;
  return new ByteReader(bytes, { littleEndian: true }).uint32();
}

/** Field 24 of the extension area: 3 is alpha by itself, 4 alpha that is multiplied in. */
function readAlphaKind(source: ByteSource, extensionOffset: number): TgaImage['alphaKind'] {
  const at = extensionOffset + 494;
  if (extensionOffset === 0 || at + 1 > source.size) return null;
  return ({ 3: 'straight', 4: 'premultiplied' } as const)[source.read(at, 1)[0]] ?? null;
}

/** Channels that the pixels decode to. */
export function tgaChannels(image: TgaImage): ChannelInfo[] {
  if (image.kind === 'grey') return (image.pixelBits === 16 ? ['Y', 'A'] : ['Y']).map((name) => ({ name, depth: '8' }));
  const bits = image.palette?.bits ?? image.pixelBits;
  // Pixels of 16 bits hold five bits a colour; what they decode to has 8.
  const names = bits === 32 || (bits === 16 && image.alphaBits === 1) ? ['R', 'G', 'B', 'A'] : ['R', 'G', 'B'];
  return names.map((name) => ({ name, depth: '8' }));
}

/** The header in the words that all formats share. */
export function tgaFrameHeader(image: TgaImage): FrameHeader {
  return {
    format: 'tga',
    width: image.width,
    height: image.height,
    pixelAspect: null,
    channels: tgaChannels(image),
    namedChannels: false,
    compression: image.runs ? 'rle' : 'none',
    dataWindow: null,
    displayWindow: null,
    alphaKind: image.alphaKind,
    metadata: {},
  };
}
