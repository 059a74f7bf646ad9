import { swapBytes } from '../byte-order.ts';
import { fullScale } from '../planes.ts';
import { SIGNED, type TiffImage } from './header.ts';

/** The samples of a block in the order of bytes that typed arrays have; of other bits than 8, 16, 32 and 64 its bytes. */
export type BlockSamples = Uint8Array | Uint16Array | Uint32Array | BigUint64Array;

/** What samples are gathered in. */
export type PlaneSamples = Uint8Array | Uint16Array | Float32Array | Uint32Array;

/**
 * A block's bytes as samples, with the bytes of each turned round where the file keeps the highest first.
 *
 * @param bytes the block's own: changed
 */
export function toSamples(bytes: Uint8Array, bits: number, littleEndian: boolean): BlockSamples {
  if (bits !== 16 && bits !== 32 && bits !== 64) return bytes;
  const size = (bits / 8) as 2 | 4 | 8;
  if (!littleEndian) swapBytes(bytes, size);
  const aligned = bytes.byteOffset % size === 0 ? bytes : new Uint8Array(bytes);
  const count = Math.floor(aligned.length / size);
  if (bits === 16) return new Uint16Array(aligned.buffer, aligned.byteOffset, count);
  return bits === 32 ? new Uint32Array(aligned.buffer, aligned.byteOffset, count) : new BigUint64Array(aligned.buffer, aligned.byteOffset, count);
}

/** Writes `count` samples of a block's row to every `step`-th place of the planes. */
export type RowWriter = (block: BlockSamples, row: number, count: number, target: number, step: number) => void;

/**
 * Makes the writer for a picture's kind of samples. Integers of few bits are brought to the full scale of 8 or 16 bits,
 * signed ones to shares of their largest.
 *
 * @param rowBytes bytes of a row in a block
 */
export function rowWriter(image: TiffImage, out: PlaneSamples, rowBytes: number): RowWriter {
  const { bits, sampleFormat } = image;
  if (sampleFormat === SIGNED) {
    const [drop, largest] = [32 - bits, 2 ** (bits - 1) - 1];
    return each(rowBytes, bits, (block, i) => ((Number(block[i]) << drop) >> drop) / largest, out);
  }
  if (bits === 64) {
    return (block, row, count, target, step) => {
      const values = new Float64Array(block.buffer, block.byteOffset + row * rowBytes, count);
      for (let i = 0, to = target; i < count; i++, to += step) out[to] = values[i];
    };
  }
  if (bits === 8 || bits === 16 || bits === 32) {
    // Bits are copied as they are: floats stand in the block as their 32 bits.
    const target32 = out instanceof Float32Array ? new Uint32Array(out.buffer) : out;
    const perRow = rowBytes / (bits / 8);
    return (block, row, count, target, step) => {
      const samples = block as Uint8Array;
      const from = row * perRow;
      if (step === 1) target32.set(samples.subarray(from, from + count), target);
      else for (let i = 0, to = target; i < count; i++, to += step) target32[to] = samples[from + i];
    };
  }
  // Packed samples, the highest bit first (section "FillOrder"). A palette's indices stay as they are.
  const scale = image.photometric === 3 ? (value: number) => value : fullScale(bits, bits < 8 ? 8 : 16);
  return (block, row, count, target, step) => {
    const bytes = block as Uint8Array;
    let bit = row * rowBytes * 8;
    for (let i = 0, to = target; i < count; i++, to += step) {
      let value = 0;
      for (let b = 0; b < bits; b++, bit++) value = (value << 1) | ((bytes[bit >> 3] >> (7 - (bit & 7))) & 1);
      out[to] = scale(value);
    }
  };
}

function each(rowBytes: number, bits: number, read: (block: BlockSamples, i: number) => number, out: PlaneSamples): RowWriter {
  const perRow = rowBytes / (bits / 8);
  return (block, row, count, target, step) => {
    const from = row * perRow;
    for (let i = 0, to = target; i < count; i++, to += step) out[to] = read(block, from + i);
  };
}
