import { aligned, room } from './memory.ts';

/** A table of Huffman codes, as ../formats/jpeg/entropy.ts makes it. */
export interface ScanCodes {
  readonly short: Uint16Array;
  readonly first: Int32Array;
  readonly count: Uint8Array;
  readonly offset: Int32Array;
  readonly values: Uint8Array;
}

/** A component in a scan, with its coefficients, which are written into. */
export interface ScanComponent {
  readonly data: Int16Array;
  readonly stride: number;
  readonly across: number;
  readonly down: number;
  readonly blocksAcross: number;
  readonly blocksDown: number;
  /** Null where the scan needs none. */
  readonly dc: ScanCodes | null;
  readonly ac: ScanCodes | null;
}

export interface Scan {
  readonly components: readonly ScanComponent[];
  readonly first: number;
  readonly last: number;
  readonly high: number;
  readonly low: number;
  readonly restartInterval: number;
  readonly progressive: boolean;
  readonly units: number;
}

export type ScanDamage = 'no code' | 'impossible' | 'past end' | 'no restart' | 'before restart';
const DAMAGES: readonly ScanDamage[] = ['no code', 'impossible', 'past end', 'no restart', 'before restart'];

/** How a scan ended. */
export interface ScanEnd {
  readonly damage: ScanDamage | null;
  /** Byte at which it stopped, counted from where it began. */
  readonly position: number;
  /** Units that were decoded whole. */
  readonly unit: number;
  /** Bytes of pixel data that belong to no block. */
  readonly left: number;
}

const [PER_SCAN, PER_COMPONENT] = [12, 8];
/** Nine-bit look-up, three numbers for each length from 0 to 16, 256 values (../../kernels/jpeg-scan.ts). */
const CODES_BYTES = 1024 + 3 * 68 + 256;
const bytesOf = (array: ArrayBufferView) => new Uint8Array(array.buffer, array.byteOffset, array.byteLength);

/**
 * Decodes one scan into its components.
 *
 * @param packed the file from the scan's first byte on, to its end
 */
export function decodeScanBits(packed: Uint8Array, scan: Scan): ScanEnd {
  const { components } = scan;
  const tables = [...new Set(components.flatMap(({ dc, ac }) => [dc, ac]))].filter((codes) => codes !== null);
  const tableSize = aligned((PER_SCAN + components.length * PER_COMPONENT) * 4);
  const codesSize = aligned(CODES_BYTES);
  const dataSizes = components.map(({ data }) => aligned(data.byteLength));
  const packedSize = aligned(packed.length);
  const total = tableSize + tables.length * codesSize + dataSizes.reduce((sum, size) => sum + size, 0) + packedSize;
  const { exports, start, bytes } = room(total);
  const codesAt = new Map(tables.map((codes, i) => [codes, start + tableSize + i * codesSize]));
  for (const [codes, at] of codesAt) putCodes(bytes, at, codes);
  let at = start + tableSize + tables.length * codesSize;
  const dataAt = components.map(({ data }, i) => {
    const place = at;
    bytes.set(bytesOf(data), place);
    at += dataSizes[i];
    return place;
  });
  bytes.set(packed, at);
  const numbers = new Int32Array(exports.memory.buffer, start, PER_SCAN + components.length * PER_COMPONENT);
  const { first, last, high, low, restartInterval, progressive, units } = scan;
  numbers.set([components.length, first, last, high, low, restartInterval, progressive ? 1 : 0, packed.length, 0, 0, units, 0]);
  components.forEach(({ stride, across, down, blocksAcross, blocksDown, dc, ac }, i) => {
    const place = PER_SCAN + i * PER_COMPONENT;
    numbers.set([dataAt[i], stride, across, down, blocksAcross, blocksDown, dc ? codesAt.get(dc)! : 0, ac ? codesAt.get(ac)! : 0], place);
  });
  const damage = exports.decodeScan(at, start);
  components.forEach(({ data }, i) => bytesOf(data).set(bytes.subarray(dataAt[i], dataAt[i] + data.byteLength)));
  return { damage: damage === 0 ? null : DAMAGES[damage - 1]!, position: numbers[8]!, unit: numbers[9]!, left: numbers[11]! };
}

function putCodes(memory: Uint8Array, at: number, { short, first, count, offset, values }: ScanCodes): void {
  memory.set(bytesOf(short), at);
  memory.set(bytesOf(first), at + 1024);
  memory.set(bytesOf(Int32Array.from(count)), at + 1024 + 68);
  memory.set(bytesOf(offset), at + 1024 + 136);
  memory.set(values, at + 1024 + 204);
}
