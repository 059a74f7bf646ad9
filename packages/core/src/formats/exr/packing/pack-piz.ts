import { forEachPiece, type ChunkLayout } from './layout.ts';
import { packHuffman } from './pack-huffman.ts';

const BITMAP_BYTES = 8192;
/** Up to this highest value differences fit 16 bits with their sign. */
const PLAIN_LIMIT = 1 << 14;

/** Packs a chunk with piz (OpenEXR, ImfPizCompressor): the values that occur, wavelets, Huffman codes; null when it would not become smaller. */
export function packPiz(pixels: Uint8Array, layout: ChunkLayout): Uint8Array | null {
  const samples = new Uint16Array(pixels.length / 2);
  const starts: number[] = [];
  let start = 0;
  for (const { across, lines, sampleBytes } of layout.channels) {
    starts.push(start);
    start += (across * lines * sampleBytes) / 2;
  }
  forEachPiece(layout, (c, line, position, length) => {
    const to = starts[c]! + (line * length) / 2;
    for (let i = 0; i < length; i += 2) samples[to + i / 2] = pixels[position + i]! | (pixels[position + i + 1]! << 8);
  });
  const { bitmap, first, last, highest, places } = valuesOf(samples);
  for (let i = 0; i < samples.length; i++) samples[i] = places[samples[i]!]!;
  layout.channels.forEach(({ across, lines, sampleBytes }, c) => {
    const words = sampleBytes / 2;
    for (let word = 0; word < words; word++)
      makeWavelets(samples, { start: starts[c]! + word, across, stepX: words, lines, stepY: across * words }, highest < PLAIN_LIMIT);
  });
  const code = packHuffman(samples);
  const table = first <= last ? bitmap.subarray(first, last + 1) : new Uint8Array(0);
  const out = new Uint8Array(4 + table.length + 4 + code.length);
  const view = new DataView(out.buffer);
  view.setUint16(0, first, true);
  view.setUint16(2, last, true);
  out.set(table, 4);
  view.setInt32(4 + table.length, code.length, true);
  out.set(code, 8 + table.length);
  return out.length < pixels.length ? out : null;
}

/** Which values occur, as bits, and the place of each among them; zero always has the first and is not marked. */
function valuesOf(samples: Uint16Array) {
  const bitmap = new Uint8Array(BITMAP_BYTES);
  for (const value of samples) bitmap[value >> 3]! |= 1 << (value & 7);
  bitmap[0]! &= ~1;
  let [first, last] = [BITMAP_BYTES - 1, 0];
  bitmap.forEach((bits, i) => {
    if (bits === 0) return;
    first = Math.min(first, i);
    last = Math.max(last, i);
  });
  const places = new Uint16Array(65536);
  let count = 0;
  for (let value = 0; value < 65536; value++) if (value === 0 || bitmap[value >> 3]! & (1 << (value & 7))) places[value] = count++;
  return { bitmap, first, last, highest: count - 1, places };
}

interface Words {
  readonly start: number;
  readonly across: number;
  readonly stepX: number;
  readonly lines: number;
  readonly stepY: number;
}

type Pair = (a: number, b: number) => void;

/** The two-dimensional Haar wavelet, in place: means where pairs were, differences beside them, then the same of the means. */
function makeWavelets(data: Uint16Array, { start, across, stepX, lines, stepY }: Words, isPlain: boolean): void {
  const pair: Pair = isPlain ? (a, b) => plainPair(data, a, b) : (a, b) => wrappedPair(data, a, b);
  for (let step = 1; 2 * step <= Math.min(across, lines); step *= 2) {
    const [right, down] = [stepX * step, stepY * step];
    let y = 0;
    for (; y + 2 * step <= lines; y += 2 * step) {
      let x = 0;
      for (; x + 2 * step <= across; x += 2 * step) {
        const at = start + y * stepY + x * stepX;
        pair(at, at + right);
        pair(at + down, at + down + right);
        pair(at, at + down);
        pair(at + right, at + right + down);
      }
      // A column that stands alone has only the lines to pair.
      if (across & step) pair(start + y * stepY + x * stepX, start + y * stepY + x * stepX + down);
    }
    if (lines & step) for (let x = 0; x + 2 * step <= across; x += 2 * step) pair(start + y * stepY + x * stepX, start + y * stepY + x * stepX + right);
  }
}

const signed = (value: number) => (value << 16) >> 16;

/** Mean and difference of two numbers below 2^14. */
function plainPair(data: Uint16Array, a: number, b: number): void {
  const [first, second] = [signed(data[a]!), signed(data[b]!)];
  data[a] = (first + second) >> 1;
  data[b] = first - second;
}

/** The same of any 16 bits, with what goes beyond them wrapped round. */
function wrappedPair(data: Uint16Array, a: number, b: number): void {
  const first = (data[a]! + 0x8000) & 0xffff;
  const second = data[b]!;
  const difference = first - second;
  const mean = (first + second) >> 1;
  data[a] = difference < 0 ? (mean + 0x8000) & 0xffff : mean;
  data[b] = difference & 0xffff;
}
