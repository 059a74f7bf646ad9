import { undoWavelets, type WaveletPlane } from '../../../kernels/index.ts';
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
  const pictures: WaveletPlane[] = [];
  let start = 0;
  const planes = layout.channels.map(({ across, lines, sampleBytes }) => {
    // Samples of 32 bits are two words; each set of words is a picture of its own.
    const words = sampleBytes / 2;
    for (let word = 0; word < words; word++) pictures.push({ start: start + word, across, stepX: words, lines, stepY: across * words });
    const plane = new Uint8Array(samples.buffer, start * 2, across * lines * words * 2);
    start += across * lines * words;
    return plane;
  });
  undoWavelets(samples, pictures, highest < PLAIN_LIMIT, values);
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
