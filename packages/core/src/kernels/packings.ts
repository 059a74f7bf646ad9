import { aligned, room } from './memory.ts';

/** Bytes behind what a kernel is given that it may read, and that must be zero for those that read bits. */
const BEHIND = 64;

/** Puts bytes into the kernels' memory with zeros behind them. */
function put(memory: Uint8Array, at: number, bytes: Uint8Array): void {
  memory.set(bytes, at);
  memory.fill(0, at + bytes.length, at + bytes.length + BEHIND);
}

const bytesOf = (array: ArrayBufferView) => new Uint8Array(array.buffer, array.byteOffset, array.byteLength);

/** Why a packed stream cannot be unpacked. */
export type Damage = 'too short' | 'impossible code' | 'too long';

/** Undoes TIFF's LZW. Gives `size` bytes of their own, or what is wrong. */
export function unpackLzwStream(packed: Uint8Array, size: number): Uint8Array | Damage {
  const input = aligned(packed.length + BEHIND);
  const { exports, start, bytes } = room(input + aligned(size));
  put(bytes, start, packed);
  const written = exports.unpackLzw(start, packed.length, start + input, size);
  if (written < 0) return (['too short', 'impossible code', 'too long'] as const)[-written - 1]!;
  return bytes.slice(start + input, start + input + size);
}

/** The tables of a Huffman block, as ../formats/exr/packing/huffman.ts makes them. */
export interface HuffmanTables {
  readonly table: Uint32Array;
  readonly first: BigUint64Array;
  readonly count: Uint32Array;
  readonly offset: Uint32Array;
  readonly sorted: Uint32Array;
}

/** What is wrong with a Huffman block. */
export type HuffmanDamage = 'too many' | 'run over' | 'no code' | 'too few';

/**
 * Decodes a Huffman block of piz or dwa.
 *
 * @param bits how many of `packed` belong to it
 * @param runSymbol stands for the value before, so many times more as 8 bits say
 */
export function unpackHuffmanBlock(packed: Uint8Array, bits: number, tables: HuffmanTables, runSymbol: number, count: number): Uint16Array | HuffmanDamage {
  const parts = [packed, tables.table, tables.first, tables.count, tables.offset, tables.sorted];
  const places: number[] = [];
  let total = 0;
  for (const part of parts) {
    places.push(total);
    total += aligned(part.byteLength + BEHIND);
  }
  const { exports, start, bytes } = room(total + aligned(count * 2));
  parts.forEach((part, i) => put(bytes, start + places[i], bytesOf(part)));
  const [data, table, first, counts, offset, sorted] = places.map((place) => start + place);
  const out = start + total;
  const damage = exports.unpackHuffman(data, BigInt(bits), table, first, counts, offset, sorted, runSymbol, out, count);
  if (damage !== 0) return (['too many', 'run over', 'no code', 'too few'] as const)[damage - 1]!;
  return new Uint16Array(exports.memory.buffer, out, count).slice();
}

/** A picture of 16-bit values inside a piz chunk; places and distances in values. */
export interface WaveletPlane {
  readonly start: number;
  readonly across: number;
  readonly stepX: number;
  readonly lines: number;
  readonly stepY: number;
}

/**
 * Undoes piz's wavelet of every plane, and looks the values up.
 *
 * @param samples changed
 * @param plain whether differences fit 16 bits with their sign
 * @param values what the values stand for, 65,536 of them
 */
export function undoWavelets(samples: Uint16Array, planes: readonly WaveletPlane[], plain: boolean, values: Uint16Array): void {
  const size = aligned(samples.byteLength);
  const { exports, start, bytes } = room(size + aligned(values.byteLength));
  bytes.set(bytesOf(samples), start);
  bytes.set(bytesOf(values), start + size);
  for (const plane of planes) exports.undoWavelet(start + plane.start * 2, plane.across, plane.stepX, plane.lines, plane.stepY, plain ? 1 : 0);
  exports.lookUp(start, samples.length, start + size);
  samples.set(new Uint16Array(exports.memory.buffer, start, samples.length));
}

/** Undoes the blocks of b44 of one channel: its halves, and the bytes that they took; null where the stream ends inside a block. */
export function unpackB44Blocks(packed: Uint8Array, across: number, lines: number): { samples: Uint16Array; used: number } | null {
  const input = aligned(packed.length + BEHIND);
  const { exports, start, bytes } = room(input + aligned(across * lines * 2));
  put(bytes, start, packed);
  const used = exports.unpackB44(start, packed.length, start + input, across, lines);
  return used < 0 ? null : { samples: new Uint16Array(exports.memory.buffer, start + input, across * lines).slice(), used };
}

/**
 * Decodes the cosine blocks of dwa of one channel, or of three that share the colour transform.
 *
 * @param codes coefficients but for the lowest
 * @param lowest of every block, channel after channel
 * @param curve from what is stored to linear halves, or null
 * @returns the channels' halves, and how many codes they took; null where the codes end too early
 */
export function unpackCosineBlocks(
  codes: Uint16Array,
  lowest: Uint16Array,
  channels: 1 | 3,
  across: number,
  lines: number,
  curve: Uint16Array | null,
): { halves: Uint16Array[]; used: number } | null {
  const [codesSize, lowestSize, curveSize] = [aligned(codes.byteLength + BEHIND), aligned(lowest.byteLength + BEHIND), curve ? aligned(curve.byteLength) : 0];
  const count = across * lines;
  const { exports, start, bytes } = room(codesSize + lowestSize + curveSize + aligned(channels * count * 2 + BEHIND));
  const [lowestAt, curveAt] = [start + codesSize, start + codesSize + lowestSize];
  const out = curveAt + curveSize;
  put(bytes, start, bytesOf(codes));
  put(bytes, lowestAt, bytesOf(lowest));
  if (curve) bytes.set(bytesOf(curve), curveAt);
  const end = exports.unpackCosine(start, start + codes.byteLength, lowestAt, channels, across, lines, curve ? curveAt : 0, out);
  if (end === 0) return null;
  const halves = Array.from({ length: channels }, (_, c) => new Uint16Array(exports.memory.buffer, out + c * count * 2, count).slice());
  return { halves, used: (end - start) / 2 };
}
