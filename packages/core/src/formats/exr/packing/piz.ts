import { PackedDataError } from '../../errors.ts';
import { ByteReader } from '../../byte-source.ts';
import { unpackHuffman } from './huffman.ts';
import { interleave, type ChunkLayout } from './layout.ts';

const BITMAP_BYTES = 8192;

/**
 * Undoes piz (OpenEXR, ImfPizCompressor, after the PIZ image format of Industrial Light & Magic):
 * the values that occur, a Huffman block, a two-dimensional Haar wavelet for each channel.
 */
export function unpackPiz(packed: Uint8Array, layout: ChunkLayout): Uint8Array {
  const reader = new ByteReader(packed, { littleEndian: true });
  const { values, highest } = readValues(reader);
  const length = reader.int32();
  if (length < 0 || length > reader.remaining) throw new PackedDataError('its code is cut short');
  const count = layout.size / 2;
  const samples = unpackHuffman(reader.take(length), count);
  if (reader.remaining > 0) throw new PackedDataError(`${reader.remaining} bytes are left over`);
  let start = 0;
  const planes = layout.channels.map(({ across, lines, sampleBytes }) => {
    // Samples of 32 bits are two words; each set of words is a picture of its own.
    const words = sampleBytes / 2;
    for (let word = 0; word < words; word++) undoWavelet(samples, start + word, across, words, lines, across * words, highest);
    const end = start + across * lines * words;
    for (let i = start; i < end; i++) samples[i] = values[samples[i]];
    const plane = new Uint8Array(samples.buffer, start * 2, (end - start) * 2);
    start = end;
    return plane;
  });
  return interleave(layout, planes);
}

/** The values that occur, in ascending order; zero always does. */
function readValues(reader: ByteReader): { values: Uint16Array; highest: number } {
  const first = reader.uint8() | (reader.uint8() << 8);
  const last = reader.uint8() | (reader.uint8() << 8);
  const bitmap = new Uint8Array(BITMAP_BYTES);
  if (last >= BITMAP_BYTES) throw new PackedDataError('its table of values is impossible');
  if (first <= last) bitmap.set(reader.take(last - first + 1), first);
  const values = new Uint16Array(65536);
  let count = 0;
  for (let value = 0; value < 65536; value++) {
    if (value === 0 || (bitmap[value >> 3] & (1 << (value & 7))) !== 0) values[count++] = value;
  }
  return { values, highest: count - 1 };
}

/** Up to this highest value differences fit 16 bits with their sign, and a plainer sum does. */
const PLAIN_LIMIT = 1 << 14;

function undoWavelet(data: Uint16Array, start: number, across: number, stepX: number, lines: number, stepY: number, highest: number): void {
  const join = highest < PLAIN_LIMIT ? joinPlain : joinModulo;
  const smaller = Math.min(across, lines);
  let p = 1;
  while (p <= smaller) p <<= 1;
  p >>= 1;
  let p2 = p;
  p >>= 1;
  for (; p >= 1; p2 = p, p >>= 1) {
    const [x1, y1, x2, y2] = [stepX * p, stepY * p, stepX * p2, stepY * p2];
    const endY = start + stepY * (lines - p2);
    let y = start;
    for (; y <= endY; y += y2) {
      const endX = y + stepX * (across - p2);
      let x = y;
      for (; x <= endX; x += x2) {
        join(data, x, x + y1);
        join(data, x + x1, x + x1 + y1);
        join(data, x, x + x1);
        join(data, x + y1, x + y1 + x1);
      }
      if ((across & p) !== 0) join(data, x, x + y1);
    }
    if ((lines & p) !== 0) {
      const endX = y + stepX * (across - p2);
      for (let x = y; x <= endX; x += x2) join(data, x, x + x1);
    }
  }
}

/** Mean and difference become the two values that they were made from. */
function joinPlain(data: Uint16Array, meanAt: number, differenceAt: number): void {
  const difference = (data[differenceAt] << 16) >> 16;
  const mean = (data[meanAt] << 16) >> 16;
  const a = mean + (difference & 1) + (difference >> 1);
  data[meanAt] = a;
  data[differenceAt] = a - difference;
}

/** The same modulo 65536, where differences use all 16 bits. */
function joinModulo(data: Uint16Array, meanAt: number, differenceAt: number): void {
  const difference = data[differenceAt];
  const b = (data[meanAt] - (difference >> 1)) & 0xffff;
  data[differenceAt] = b;
  data[meanAt] = difference + b - 0x8000;
}
