import type { ByteSource } from '../byte-source.ts';
import { FrameFileError, NotDecodedError } from '../errors.ts';
import type { ChannelInfo, FrameHeader, PlaneType } from '../frame.ts';
import { readDirectory, readNumbers, readText, readTiffLayout, TAG, type TiffDirectory, type TiffField, type TiffLayout } from './tags.ts';

/** Names of the compressions that turn up; the ones that are decoded are in `decode.ts`. */
const COMPRESSIONS: Record<number, string> = {
  1: 'none',
  2: 'ccitt',
  3: 'ccitt',
  4: 'ccitt',
  5: 'lzw',
  6: 'jpeg',
  7: 'jpeg',
  8: 'zip',
  32946: 'zip',
  32773: 'packbits',
  34925: 'lzma',
  50000: 'zstd',
  50001: 'webp',
};

/** A block of pixels: a strip or a tile, of one component where planes lie apart. */
export interface TiffBlocks {
  readonly tiled: boolean;
  readonly width: number;
  readonly height: number;
  readonly across: number;
  readonly down: number;
  readonly offsets: readonly number[];
  readonly byteCounts: readonly number[];
}

export interface TiffImage {
  readonly layout: TiffLayout;
  readonly directory: TiffDirectory;
  readonly width: number;
  readonly height: number;
  readonly bits: number;
  /** 1 unsigned, 2 signed, 3 float. */
  readonly sampleFormat: number;
  readonly samples: number;
  readonly planar: boolean;
  readonly photometric: number;
  readonly compression: string;
  /** Whether the bits of every byte of the pixels stand in reverse (FillOrder 2). */
  readonly bitsReversed: boolean;
  /** Pixels across and down that share a pair of chroma samples; 1 and 1 for what is no YCbCr. */
  readonly chromaSubsampling: readonly [number, number];
  readonly predictor: number;
  readonly extraSamples: readonly number[];
  readonly blocks: TiffBlocks;
  readonly pixelAspect: number | null;
  readonly metadata: Readonly<Record<string, string>>;
}

const MAXIMUM_SIZE = 2 ** 30;
const MAXIMUM_SAMPLES = 1024;
/** Complex numbers of two doubles are the largest samples that anybody writes. */
const MAXIMUM_BITS = 128;

/** Reads the first picture's directory and what its fields mean. @throws FrameFileError */
export function readFirstImage(source: ByteSource): TiffImage {
  const layout = readTiffLayout(source);
  if (layout.firstDirectory === 0) throw new FrameFileError('truncated', 'The directory was never written: the file was left unfinished.');
  return readTiffImage(source, layout, readDirectory(source, layout, layout.firstDirectory));
}

/** Reads what the fields of a picture's directory mean. @throws FrameFileError, NotDecodedError */
export function readTiffImage(source: ByteSource, layout: TiffLayout, directory: TiffDirectory): TiffImage {
  const numbers = (tag: number) => readNumbers(source, layout, directory.fields.get(tag));
  const one = (tag: number, usual: number) => numbers(tag)[0] ?? usual;
  const [width, height] = [one(TAG.width, 0), one(TAG.height, 0)];
  if (!isSize(width) || !isSize(height)) throw new FrameFileError('corrupt', `The directory gives an impossible size, ${width} x ${height}.`);
  const samples = one(TAG.samplesPerPixel, 1);
  if (samples < 1 || samples > MAXIMUM_SAMPLES) throw new FrameFileError('corrupt', `The directory gives ${samples} samples a pixel.`);
  const bits = numbers(TAG.bitsPerSample);
  const formats = numbers(TAG.sampleFormat);
  if (new Set(bits).size > 1 || new Set(formats).size > 1) throw new NotDecodedError('Samples of different kinds in one pixel cannot be looked into.');
  const code = one(TAG.compression, 1);
  const photometric = one(TAG.photometric, 1);
  const planar = one(TAG.planar, 1) === 2;
  const [acrossUnit, downUnit] = [one(TAG.resolutionX, 0), one(TAG.resolutionY, 0)];
  const bitsPerSample = bits[0] ?? 1;
  if (bitsPerSample < 1 || bitsPerSample > MAXIMUM_BITS) throw new FrameFileError('corrupt', `The directory gives ${bitsPerSample} bits a sample.`);
  return {
    layout,
    directory,
    width,
    height,
    bits: bitsPerSample,
    sampleFormat: formats[0] ?? 1,
    samples,
    planar,
    photometric,
    bitsReversed: one(TAG.fillOrder, 1) === 2,
    chromaSubsampling: photometric === YCBCR ? readSubsampling(numbers(TAG.chromaSubsampling)) : [1, 1],
    compression: COMPRESSIONS[code] ?? `compression ${code}`,
    predictor: one(TAG.predictor, 1),
    extraSamples: numbers(TAG.extraSamples),
    blocks: readBlocks(directory.fields, numbers, { width, height, planes: planar ? samples : 1 }),
    // Pixels a unit: twice as many across means pixels half as wide.
    pixelAspect: acrossUnit > 0 && downUnit > 0 && Number.isFinite(downUnit / acrossUnit) ? downUnit / acrossUnit : null,
    metadata: readNotes(source, directory.fields),
  };
}

const YCBCR = 6;

/** Halved both ways where nothing is said (section 21). */
function readSubsampling([across = 2, down = 2]: readonly number[]): [number, number] {
  const isOne = (value: number) => [1, 2, 4].includes(value);
  if (!isOne(across) || !isOne(down)) throw new FrameFileError('corrupt', `The directory gives an impossible chroma subsampling, ${across} x ${down}.`);
  return [across, down];
}

function isSize(value: number): boolean {
  return Number.isInteger(value) && value >= 1 && value <= MAXIMUM_SIZE;
}

function readBlocks(
  fields: ReadonlyMap<number, TiffField>,
  numbers: (tag: number) => number[],
  picture: { width: number; height: number; planes: number },
): TiffBlocks {
  const tiled = fields.has(TAG.tileWidth);
  const [blockWidth = picture.width] = tiled ? numbers(TAG.tileWidth) : [];
  const [stated = picture.height] = numbers(tiled ? TAG.tileHeight : TAG.rowsPerStrip);
  const blockHeight = tiled ? stated : Math.min(stated, picture.height);
  if (!isSize(blockWidth) || !isSize(blockHeight))
    throw new FrameFileError('corrupt', `The directory gives impossible blocks, ${blockWidth} x ${blockHeight}.`);
  const [across, down] = [Math.ceil(picture.width / blockWidth), Math.ceil(picture.height / blockHeight)];
  const offsets = numbers(tiled ? TAG.tileOffsets : TAG.stripOffsets);
  const byteCounts = numbers(tiled ? TAG.tileByteCounts : TAG.stripByteCounts);
  const needed = across * down * picture.planes;
  if (offsets.length < needed || byteCounts.length < needed) {
    throw new FrameFileError('corrupt', `The directory lists ${Math.min(offsets.length, byteCounts.length)} blocks of pixels where ${needed} are needed.`);
  }
  return { tiled, width: blockWidth, height: blockHeight, across, down, offsets: offsets.slice(0, needed), byteCounts: byteCounts.slice(0, needed) };
}

function readNotes(source: ByteSource, fields: ReadonlyMap<number, TiffField>): Record<string, string> {
  const names = { description: TAG.description, software: TAG.software, hostComputer: TAG.hostComputer, artist: TAG.artist, make: TAG.make, model: TAG.model };
  const notes: Record<string, string> = {};
  for (const [name, tag] of Object.entries(names)) {
    const text = readText(source, fields.get(tag));
    if (text !== null) notes[name] = text;
  }
  return notes;
}

/** What a sample is stored as, once decoded; null for kinds that are not decoded. Signed integers become shares of their largest. */
export function planeTypeOf({ bits, sampleFormat }: Pick<TiffImage, 'bits' | 'sampleFormat'>): PlaneType | null {
  if (sampleFormat === SIGNED) return [8, 16, 32].includes(bits) ? 'float' : null;
  if (sampleFormat === 3) return bits === 16 ? 'half' : bits === 32 || bits === 64 ? 'float' : null;
  if (sampleFormat !== 1 && sampleFormat !== 4) return null;
  if (bits <= 8) return 'u8';
  return bits <= 16 ? 'u16' : bits === 32 ? 'uint' : null;
}

/** SampleFormat of signed integers (section 19). */
export const SIGNED = 2;

/** Names of the channels that the pixels decode to (section "PhotometricInterpretation"). */
export function tiffChannels(image: TiffImage): ChannelInfo[] {
  const colours = { 2: ['R', 'G', 'B'], 3: ['R', 'G', 'B'], 5: ['C', 'M', 'Y', 'K'], 6: ['R', 'G', 'B'] }[image.photometric] ?? ['Y'];
  const stored = image.photometric === 3 ? 1 : colours.length;
  const names = image.samples >= stored ? [...colours] : colours.slice(0, image.samples);
  for (let extra = stored; extra < image.samples; extra++) names.push(extra === stored ? 'A' : `extra${extra - stored}`);
  const depth = depthOf(image);
  return names.map((name) => ({ name, depth }));
}

function depthOf({ bits, sampleFormat, photometric }: TiffImage): ChannelInfo['depth'] {
  if (photometric === 3) return '8';
  if (sampleFormat === 3) return bits === 16 ? 'half' : bits === 64 ? 'double' : 'float';
  if (bits === 32) return 'uint';
  return (['1', '2', '4', '8', '10', '12', '16'] as const).find((depth) => Number(depth) === bits) ?? 'uint';
}

/** The header in the words that all formats share. */
export function tiffFrameHeader(image: TiffImage): FrameHeader {
  const alphaKind = ({ 1: 'premultiplied', 2: 'straight' } as const)[image.extraSamples[0]] ?? null;
  return {
    format: 'tiff',
    width: image.width,
    height: image.height,
    pixelAspect: image.pixelAspect,
    channels: tiffChannels(image),
    namedChannels: false,
    compression: image.compression,
    dataWindow: null,
    displayWindow: null,
    blocks: [image.blocks.width, image.blocks.height],
    alphaKind,
    metadata: image.metadata,
  };
}
