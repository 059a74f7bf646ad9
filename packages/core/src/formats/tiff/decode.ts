import type { ByteSource } from '../byte-source.ts';
import { FrameFileError, NotDecodedError } from '../errors.ts';
import { boundDecoded, type CodecTools, type Decoded, type DecodedFrame, type PlainPixels, type Plane } from '../frame.ts';
import { interleavedPlanes } from '../planes.ts';
import { LARGEST_RATIO, unpackBlock } from './blocks.ts';
import { blockRowBytes, checkTiffStructure, inPage, type TiffPages } from './check.ts';
import { planeTypeOf, tiffChannels, tiffFrameHeader, type TiffImage } from './header.ts';
import { rowWriter, type BlockSamples, type PlaneSamples } from './samples.ts';
import { readNumbers, TAG } from './tags.ts';

/**
 * Checks every block of every picture and decodes the first picture's pixels. Integers of few bits are brought to
 * the full scale of 8 or 16 bits, a palette is looked up, "white is zero" is turned round.
 *
 * @throws FrameFileError, NotDecodedError
 */
export function decodeTiff(source: ByteSource, image: TiffImage, tools: CodecTools): Decoded {
  const bytes = source.read(0, source.size);
  const pages = checkTiffStructure(source, image);
  boundImage(image);
  const frame = decodeBlocks(source, image, (index) => unpackBlock(bytes, image, index, tools));
  const notExamined = unpackFurther(bytes, image, pages, tools) ?? pages.report.notExamined;
  return { frame, report: { ...pages.report, notExamined, plain: plainPixels(image) } };
}

/** Unpacks one block; null leaves its pixels zero. */
export type BlockReader = (index: number) => BlockSamples | null;

/** Decodes the first picture. @throws FrameFileError, NotDecodedError, and what the reader throws */
export function decodeBlocks(source: ByteSource, image: TiffImage, read: BlockReader): DecodedFrame {
  const type = decodedType(image);
  boundDecoded(decodedBytes(image), image.width, image.height);
  const planes = interleavedPlanes(
    tiffChannels(image).map((channel) => channel.name),
    image.width,
    image.height,
    image.photometric === 3 ? 'u8' : type,
    toColours(gather(image, type, read), image, source),
  );
  return { header: tiffFrameHeader(image), planes };
}

/** Where a block lies: its corner in pixels, its pixels inside the picture, and the plane that it belongs to. */
export function blockPlace({ blocks, width, height }: TiffImage, index: number): { left: number; top: number; across: number; plane: number; down: number } {
  const inPlane = index % (blocks.across * blocks.down);
  const [left, top] = [(inPlane % blocks.across) * blocks.width, Math.floor(inPlane / blocks.across) * blocks.height];
  const plane = Math.floor(index / (blocks.across * blocks.down));
  return { left, top, across: Math.min(blocks.width, width - left), down: Math.min(blocks.height, height - top), plane };
}

/**
 * Unpacks the blocks of the pictures behind the first and keeps nothing of them.
 *
 * @returns why one was not looked into, if one was not
 */
function unpackFurther(bytes: Uint8Array, first: TiffImage, { further }: TiffPages, tools: CodecTools): string | undefined {
  let total = decodedBytes(first);
  for (const { number, image } of further) {
    try {
      boundImage(image);
      boundDecoded((total += decodedBytes(image)), image.width, image.height);
      for (let index = 0; index < image.blocks.offsets.length; index++) unpackBlock(bytes, image, index, tools);
    } catch (thrown) {
      if (thrown instanceof NotDecodedError) return `Page ${number}: ${thrown.message}`;
      throw inPage(number, thrown);
    }
  }
  return undefined;
}

/** Bytes of a picture's samples, with what is held beside them. */
function decodedBytes({ width, height, samples, bits }: TiffImage): number {
  return width * height * samples * Math.ceil(bits / 8) * 2;
}

/** Holds what the directory promises against what the data can hold. @throws FrameFileError, NotDecodedError */
function boundImage(image: TiffImage): void {
  const { width, height, samples, bits, blocks, compression } = image;
  decodedType(image);
  const packed = blocks.byteCounts.reduce((sum, length) => sum + length, 0);
  if ((width * height * samples * bits) / 8 > packed * LARGEST_RATIO[compression]) {
    throw new FrameFileError('corrupt', `The directory promises ${width} x ${height} pixels, more than the data can hold.`);
  }
  boundDecoded(decodedBytes(image), width, height);
}

/** Blocks that are not packed; those that follow one another without a gap are looked at as one. */
function plainPixels(image: TiffImage): PlainPixels[] | undefined {
  if (image.compression !== 'none') return undefined;
  const { offsets, byteCounts } = image.blocks;
  const lineBytes = blockRowBytes(image);
  const stretches: PlainPixels[] = [];
  offsets.forEach((start, i) => {
    const last = stretches.at(-1);
    if (last && last.end === start) stretches[stretches.length - 1] = { ...last, end: start + byteCounts[i] };
    else stretches.push({ start, end: start + byteCounts[i], lineBytes });
  });
  return stretches;
}

/** @throws NotDecodedError for what is not decoded */
function decodedType(image: TiffImage): Plane['type'] {
  const cannot = (what: string) => new NotDecodedError(`${what} cannot be looked into; the structure of the file is whole.`);
  if (!(image.compression in LARGEST_RATIO)) throw cannot(`Pixels packed with ${image.compression}`);
  if (![0, 1, 2, 3, 5].includes(image.photometric)) throw cannot(`Pixels of the photometric kind ${image.photometric}`);
  const type = planeTypeOf(image);
  if (type === null || (image.photometric === 3 && type !== 'u8') || (image.photometric === 0 && type !== 'u8' && type !== 'u16')) {
    throw cannot(`Samples of ${image.bits} bits and format ${image.sampleFormat}`);
  }
  return type;
}

const ARRAYS = { u8: Uint8Array, u16: Uint16Array, half: Uint16Array, float: Float32Array, uint: Uint32Array } as const;

/** Unpacks all blocks into samples that lie interleaved. */
function gather(image: TiffImage, type: Plane['type'], read: BlockReader): PlaneSamples {
  const { blocks } = image;
  const out = new ARRAYS[type](image.width * image.height * image.samples);
  const perPixel = image.planar ? 1 : image.samples;
  const writeRow = rowWriter(image, out, blockRowBytes(image));
  for (let index = 0; index < blocks.offsets.length; index++) {
    const block = read(index);
    if (!block) continue;
    const { left, top, across, down, plane } = blockPlace(image, index);
    for (let y = 0; y < down; y++) {
      const target = ((top + y) * image.width + left) * image.samples + plane;
      writeRow(block, y, across * perPixel, target, image.planar ? image.samples : 1);
    }
  }
  return out;
}

function toColours(samples: PlaneSamples, image: TiffImage, source: ByteSource): PlaneSamples {
  if (image.photometric === 3) return lookUpPalette(samples, image, source);
  if (image.photometric === 0) {
    const most = samples instanceof Uint8Array ? 255 : 65535;
    for (let i = 0; i < samples.length; i += image.samples) samples[i] = most - samples[i];
  }
  return samples;
}

function lookUpPalette(indices: PlaneSamples, image: TiffImage, source: ByteSource): Uint8Array {
  const map = readNumbers(source, image.layout, image.directory.fields.get(TAG.colourMap));
  const entries = 2 ** image.bits;
  if (map.length < entries * 3) throw new FrameFileError('corrupt', 'The picture needs a palette and has none.');
  const channels = tiffChannels(image).length;
  const pixels = image.width * image.height;
  const out = new Uint8Array(pixels * channels);
  for (let i = 0; i < pixels; i++) {
    const index = indices[i * image.samples];
    // All reds, then all greens, then all blues, of 16 bits each (section "ColorMap").
    for (let c = 0; c < 3; c++) out[i * channels + c] = map[c * entries + index] >> 8;
    for (let extra = 3; extra < channels; extra++) out[i * channels + extra] = indices[i * image.samples + extra - 2];
  }
  return out;
}
