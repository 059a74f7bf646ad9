import { memorySource } from '../byte-source.ts';
import { FrameFileError, NotDecodedError } from '../errors.ts';
import { MAXIMUM_DECODED_BYTES, type CodecTools, type DecodedFrame, type PlainPixels, type Plane, type StructureReport } from '../frame.ts';
import { fullScale, interleavedPlanes } from '../planes.ts';
import { blockRowBytes, blockRows, checkTiffBlocks } from './check.ts';
import { planeTypeOf, readTiffImage, tiffChannels, tiffFrameHeader, type TiffImage } from './header.ts';
import { undoFloatPredictor, unpackBits, unpackLzw } from './packing.ts';
import { readNumbers, TAG } from './tags.ts';

/** How many bytes one packed byte can become at most; LZW's longest code stands for 3840 bytes in 12 bits. */
const LARGEST_RATIO: Record<string, number> = { none: 1, lzw: 2731, zip: 1032, packbits: 64 };

/**
 * Checks every block and decodes the first picture's pixels. Integers of few bits are brought to
 * the full scale of 8 or 16 bits, a palette is looked up, "white is zero" is turned round.
 *
 * @throws FrameFileError, NotDecodedError
 */
export function decodeTiff(bytes: Uint8Array, tools: CodecTools): { frame: DecodedFrame; report: StructureReport } {
  const source = memorySource(bytes);
  const image = readTiffImage(source);
  const report = { ...checkTiffBlocks(source, image), plain: plainPixels(image) };
  const header = tiffFrameHeader(image);
  const type = whyNotDecoded(image);
  const samplesInAll = image.width * image.height * image.samples;
  const packed = image.blocks.byteCounts.reduce((sum, length) => sum + length, 0);
  if ((samplesInAll * image.bits) / 8 > packed * LARGEST_RATIO[image.compression]) {
    throw new FrameFileError('corrupt', `The directory promises ${image.width} x ${image.height} pixels, more than the data can hold.`);
  }
  if (samplesInAll * Math.ceil(image.bits / 8) * 2 > MAXIMUM_DECODED_BYTES)
    throw new NotDecodedError(`The picture of ${image.width} x ${image.height} pixels is too large to look into.`);
  const samples = gather(bytes, image, type, tools);
  const names = tiffChannels(image).map((channel) => channel.name);
  if (image.photometric === 3) {
    const planes = interleavedPlanes(names, image.width, image.height, 'u8', lookUpPalette(samples, image, source, names.length));
    return { frame: { header, planes }, report };
  }
  if (image.photometric === 0) for (let i = 0; i < samples.length; i += image.samples) samples[i] = (type === 'u8' ? 255 : 65535) - samples[i];
  return { frame: { header, planes: interleavedPlanes(names, image.width, image.height, type, samples) }, report };
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

function whyNotDecoded(image: TiffImage): Plane['type'] {
  const cannot = (what: string) => new NotDecodedError(`${what} cannot be looked into; the structure of the file is whole.`);
  if (!(image.compression in LARGEST_RATIO)) throw cannot(`Pixels packed with ${image.compression}`);
  if (![0, 1, 2, 3, 5].includes(image.photometric)) throw cannot(`Pixels of the photometric kind ${image.photometric}`);
  const type = planeTypeOf(image);
  if (type === null || (image.photometric === 3 && type !== 'u8') || (image.photometric === 0 && type !== 'u8' && type !== 'u16')) {
    throw cannot(`Samples of ${image.bits} bits and format ${image.sampleFormat}`);
  }
  return type;
}

type Samples = Uint8Array | Uint16Array | Float32Array | Uint32Array;

/** Unpacks all blocks into samples that lie interleaved. */
function gather(bytes: Uint8Array, image: TiffImage, type: Plane['type'], tools: CodecTools): Samples {
  const count = image.width * image.height * image.samples;
  const out =
    type === 'u8' ? new Uint8Array(count) : type === 'float' ? new Float32Array(count) : type === 'uint' ? new Uint32Array(count) : new Uint16Array(count);
  const { blocks } = image;
  const rowBytes = blockRowBytes(image);
  const perPixel = image.planar ? 1 : image.samples;
  const perPlane = blocks.across * blocks.down;
  const readRow = rowReader(image);
  for (let index = 0; index < blocks.offsets.length; index++) {
    const rows = blockRows(image, index);
    const pixels = unpackBlock(bytes, image, index, rowBytes * rows, tools);
    const plane = Math.floor(index / perPlane);
    const [column, row] = [(index % perPlane) % blocks.across, Math.floor((index % perPlane) / blocks.across)];
    const left = column * blocks.width;
    const wanted = Math.min(blocks.width, image.width - left);
    for (let y = 0; y < rows && row * blocks.height + y < image.height; y++) {
      const target = ((row * blocks.height + y) * image.width + left) * image.samples + plane;
      const line = pixels.subarray(y * rowBytes, (y + 1) * rowBytes);
      readRow(line, wanted * perPixel, out, target, image.planar ? image.samples : 1);
    }
  }
  return out;
}

function unpackBlock(bytes: Uint8Array, image: TiffImage, index: number, size: number, tools: CodecTools): Uint8Array {
  const { offsets, byteCounts } = image.blocks;
  const packed = bytes.subarray(offsets[index], offsets[index] + byteCounts[index]);
  try {
    const pixels = unpack(image.compression, packed, size, tools);
    return image.predictor === 1 ? pixels : undoPredictor(pixels, image);
  } catch (thrown) {
    throw new FrameFileError('corrupt', `The block at byte ${offsets[index]} cannot be unpacked: ${thrown instanceof Error ? thrown.message : thrown}.`);
  }
}

function unpack(compression: string, packed: Uint8Array, size: number, tools: CodecTools): Uint8Array {
  if (compression === 'lzw') return unpackLzw(packed, size);
  if (compression === 'packbits') return unpackBits(packed, size);
  if (compression === 'none') return new Uint8Array(packed.subarray(0, size));
  const pixels = tools.inflate(packed, size);
  if (pixels.length !== size) throw new Error(`it gives ${pixels.length} bytes where ${size} are needed`);
  return pixels;
}

/** Undoes the differences along rows (section 14), in place. */
function undoPredictor(pixels: Uint8Array, image: TiffImage): Uint8Array {
  const rowBytes = blockRowBytes(image);
  const samples = image.planar ? 1 : image.samples;
  const { littleEndian } = image.layout;
  const view = new DataView(pixels.buffer, pixels.byteOffset, pixels.byteLength);
  for (let start = 0; start < pixels.length; start += rowBytes) {
    const end = start + rowBytes;
    if (image.predictor === 3) undoFloatPredictor(pixels.subarray(start, end), samples, image.bits / 8, littleEndian);
    else if (image.predictor !== 2) throw new Error(`predictor ${image.predictor} is none that TIFF has`);
    else if (image.bits === 8) for (let i = start + samples; i < end; i++) pixels[i] += pixels[i - samples];
    else if (image.bits === 16) {
      for (let i = start + samples * 2; i < end; i += 2) {
        view.setUint16(i, view.getUint16(i, littleEndian) + view.getUint16(i - samples * 2, littleEndian), littleEndian);
      }
    } else if (image.bits === 32) {
      for (let i = start + samples * 4; i < end; i += 4) {
        view.setUint32(i, view.getUint32(i, littleEndian) + view.getUint32(i - samples * 4, littleEndian), littleEndian);
      }
    } else throw new Error(`predictor 2 is not defined for ${image.bits} bits`);
  }
  return pixels;
}

/** Writes a row's samples to every `step`-th place. */
type RowReader = (line: Uint8Array, count: number, out: Samples, target: number, step: number) => void;

function rowReader(image: TiffImage): RowReader {
  const { bits, sampleFormat } = image;
  const { littleEndian } = image.layout;
  if (bits === 8) return (line, count, out, target, step) => void copyEach(count, step, (i) => line[i], out, target);
  if (bits === 16 || bits === 32 || bits === 64) {
    return (line, count, out, target, step) => {
      const view = new DataView(line.buffer, line.byteOffset, line.byteLength);
      const read =
        bits === 16
          ? (i: number) => view.getUint16(i * 2, littleEndian)
          : bits === 64
            ? (i: number) => view.getFloat64(i * 8, littleEndian)
            : sampleFormat === 3
              ? (i: number) => view.getFloat32(i * 4, littleEndian)
              : (i: number) => view.getUint32(i * 4, littleEndian);
      copyEach(count, step, read, out, target);
    };
  }
  // Packed samples, the highest bit first (section "FillOrder"). A palette's indices stay as they are.
  const scale = image.photometric === 3 ? (value: number) => value : fullScale(bits, bits < 8 ? 8 : 16);
  return (line, count, out, target, step) => {
    let bit = 0;
    const read = () => {
      let value = 0;
      for (let b = 0; b < bits; b++, bit++) value = (value << 1) | ((line[bit >> 3] >> (7 - (bit & 7))) & 1);
      return scale(value);
    };
    copyEach(count, step, read, out, target);
  };
}

function copyEach(count: number, step: number, read: (i: number) => number, out: Samples, target: number): void {
  for (let i = 0, to = target; i < count; i++, to += step) out[to] = read(i);
}

function lookUpPalette(indices: Samples, image: TiffImage, source: Parameters<typeof readNumbers>[0], channels: number): Uint8Array {
  const map = readNumbers(source, image.layout, image.directory.fields.get(TAG.colourMap));
  const entries = 2 ** image.bits;
  if (map.length < entries * 3) throw new FrameFileError('corrupt', 'The picture needs a palette and has none.');
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
