import type { ByteSource } from '../byte-source.ts';
import { FrameFileError, NotDecodedError } from '../errors.ts';
import { boundDecoded, type Decoded, type DecodedFrame, type Salvaged } from '../frame.ts';
import { fullScale, interleavedPlanes } from '../planes.ts';
import { lostRows, NO_ROW } from '../salvage.ts';
import { checkDpxStructure, lineBytes } from './check.ts';
import { dpxFrameHeader, inUsualOrder, type DpxImage } from './header.ts';

/**
 * Decodes every pixel; 10 and 12 bits are brought to the full scale of 16.
 *
 * @throws FrameFileError, NotDecodedError for run lengths, halved chroma and several elements
 */
export function decodeDpx(source: ByteSource, image: DpxImage): Decoded {
  const report = checkDpxStructure(source, image);
  const stride = lineBytes(source, image);
  const plain = [{ start: image.dataOffset, end: image.dataOffset + image.height * stride, lineBytes: stride }];
  return { frame: decodeLines(source, image, image.height), report: { ...report, plain } };
}

/** Decodes the lines that a file holds before it ends. @throws FrameFileError when there is none, and as the decode does */
export function salvageDpx(source: ByteSource, image: DpxImage): Salvaged {
  const lines = Math.min(image.height, Math.floor((source.size - image.dataOffset) / lineBytes(source, image)));
  if (lines < 1) throw new FrameFileError('truncated', NO_ROW);
  return { frame: decodeLines(source, image, lines), damage: lostRows(image, lines, isBottomUp(image)) };
}

const isBottomUp = ({ orientation }: DpxImage) => orientation === 2 || orientation === 3;

/** @param lines how many are there; those that are not stay zero */
function decodeLines(source: ByteSource, image: DpxImage, lines: number): DecodedFrame {
  const { width, height, bits, samplesPerPixel } = image;
  const why = whyNotDecoded(image);
  if (why !== null) throw new NotDecodedError(`${why} cannot be looked into; the structure of the file is whole.`);
  const bytes = source.read(0, source.size);
  const count = width * height * samplesPerPixel;
  boundDecoded(count * 4, width, height);
  const data = bits === 8 ? new Uint8Array(count) : bits === 32 ? new Float32Array(count) : new Uint16Array(count);
  const stride = lineBytes(source, image);
  const read = lineReader(image);
  const across = width * samplesPerPixel;
  for (let y = 0; y < lines; y++) {
    const start = image.dataOffset + y * stride;
    const row = isBottomUp(image) ? height - 1 - y : y;
    read(new DataView(bytes.buffer, bytes.byteOffset + start, Math.min(stride, bytes.length - start)), data, row * across, across);
  }
  const names = inUsualOrder(image.channels);
  if (names !== image.channels) swapEnds(data);
  const type = bits === 8 ? 'u8' : bits === 32 ? 'float' : 'u16';
  return { header: dpxFrameHeader(image), planes: interleavedPlanes(names, width, height, type, data) };
}

function whyNotDecoded(image: DpxImage): string | null {
  if (image.elements > 1) return 'Pictures of several elements';
  if (image.runs) return 'Run lengths';
  if (image.samplesPerPixel !== image.channels.length) return 'Pixels with halved chroma';
  if (![8, 10, 12, 16, 32].includes(image.bits)) return `Samples of ${image.bits} bits`;
  if (image.orientation > 3) return `Pictures that lie on their side (orientation ${image.orientation})`;
  if (image.packing > 2) throw new FrameFileError('corrupt', `The header names the packing ${image.packing}, which DPX does not have.`);
  return null;
}

type Samples = Uint8Array | Uint16Array | Float32Array;
type LineReader = (line: DataView, out: Samples, target: number, count: number) => void;

function lineReader(image: DpxImage): LineReader {
  const { orientation, samplesPerPixel } = image;
  const forward = plainReader(image);
  if (orientation !== 1 && orientation !== 3) return forward;
  // Right to left: pixels turned round, not their samples.
  return (line, out, target, count) => {
    forward(line, out, target, count);
    const copy = out.slice(target, target + count);
    const pixels = count / samplesPerPixel;
    for (let x = 0; x < pixels; x++)
      for (let s = 0; s < samplesPerPixel; s++) out[target + x * samplesPerPixel + s] = copy[(pixels - 1 - x) * samplesPerPixel + s];
  };
}

function plainReader({ bits, packing, littleEndian, samplesPerPixel }: DpxImage): LineReader {
  const scale = fullScale(bits === 32 ? 16 : bits, bits === 8 ? 8 : 16);
  if (bits === 8) return (line, out, target, count) => fill(out, target, count, (i) => line.getUint8(i));
  if (bits === 16) return (line, out, target, count) => fill(out, target, count, (i) => line.getUint16(i * 2, littleEndian));
  if (bits === 32) return (line, out, target, count) => fill(out, target, count, (i) => line.getFloat32(i * 4, littleEndian));
  if (bits === 10 && packing !== 0) {
    // Of several channels the first of three samples stands highest. Words of a single channel are filled from their low
    // end: the files say nothing of it (the encoding field only tells run lengths), and readers that are not ours agree
    // on it, whatever some writers do. Two bits are left over, below (1) or above (2).
    const lowest = packing === 1 ? 2 : 0;
    const places = samplesPerPixel === 1 ? [lowest, lowest + 10, lowest + 20] : [lowest + 20, lowest + 10, lowest];
    const scaled = Uint16Array.from({ length: 1024 }, (_, code) => scale(code));
    const [first, second, third] = places;
    return (line, out, target, count) => {
      let to = target;
      const whole = target + count - (count % 3);
      let at = 0;
      for (; to < whole; at += 4, to += 3) {
        const word = line.getUint32(at, littleEndian);
        out[to] = scaled[(word >>> first) & 0x3ff];
        out[to + 1] = scaled[(word >>> second) & 0x3ff];
        out[to + 2] = scaled[(word >>> third) & 0x3ff];
      }
      for (let p = 0; to < target + count; p++, to++) out[to] = scaled[(line.getUint32(at, littleEndian) >>> places[p]) & 0x3ff];
    };
  }
  if (bits === 12 && packing !== 0) {
    const shift = packing === 1 ? 4 : 0;
    return (line, out, target, count) => fill(out, target, count, (i) => scale((line.getUint16(i * 2, littleEndian) >> shift) & 0xfff));
  }
  // Packed without a gap, from the low bits of each word up.
  return (line, out, target, count) =>
    fill(out, target, count, (i) => {
      const bit = i * bits;
      const at = (bit >> 5) * 4;
      const low = line.getUint32(at, littleEndian) >>> (bit & 31);
      const held = 32 - (bit & 31);
      const value = held >= bits ? low : low | (line.getUint32(at + 4, littleEndian) << held);
      return scale(value & ((1 << bits) - 1));
    });
}

function fill(out: Samples, target: number, count: number, read: (i: number) => number): void {
  for (let i = 0; i < count; i++) out[target + i] = read(i);
}

function swapEnds(data: Samples): void {
  for (let i = 0; i < data.length; i += 4) {
    const [a, b, g, r] = [data[i], data[i + 1], data[i + 2], data[i + 3]];
    data[i] = r;
    data[i + 1] = g;
    data[i + 2] = b;
    data[i + 3] = a;
  }
}
