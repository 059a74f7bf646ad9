import { aligned, type Exports } from './memory.ts';

/** A table of Huffman codes, as ../formats/jpeg/entropy.ts makes it. */
export interface ScanCodes {
  readonly short: Uint16Array;
  readonly first: Int32Array;
  readonly count: Uint8Array;
  readonly offset: Int32Array;
  readonly values: Uint8Array;
}

/** A component in a scan. */
export interface ScanComponent {
  /** Which of the picture's components. */
  readonly index: number;
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
  /** Byte of the file at which it stopped. */
  readonly position: number;
  /** Units that were decoded whole. */
  readonly unit: number;
  /** Bytes of pixel data that belong to no block. */
  readonly left: number;
}

/** A component's coefficients in the kernels' memory: blocks of 64, line by line, row by row of blocks. */
export interface BlocksInMemory {
  readonly at: number;
  /** Blocks of a unit. */
  readonly across: number;
  readonly down: number;
  /** Blocks from a row of blocks to the next. */
  readonly stride: number;
  /** Blocks that hold pixels. */
  readonly blocksAcross: number;
  readonly blocksDown: number;
}

const [PER_SCAN, PER_COMPONENT] = [12, 8];
const MOST_COMPONENTS = 4;
const TABLE_BYTES = aligned((PER_SCAN + MOST_COMPONENTS * PER_COMPONENT) * 4);
/** Nine-bit look-up, three numbers for each length from 0 to 16, 256 values (../../kernels/jpeg-bits.ts). */
const CODES_BYTES = aligned(1024 + 3 * 68 + 256);
/** What `runScan` needs for itself: the table, and two sets of codes for each component. */
export const SCAN_BYTES = TABLE_BYTES + 2 * MOST_COMPONENTS * CODES_BYTES;

const bytesOf = (array: ArrayBufferView) => new Uint8Array(array.buffer, array.byteOffset, array.byteLength);

/**
 * Decodes one scan into its components' blocks.
 *
 * @param own where SCAN_BYTES stand free
 * @param file where the file stands, and its byte at which the scan begins
 */
export function runScan(
  exports: Exports,
  own: number,
  file: { at: number; size: number; from: number },
  scan: Scan,
  blocks: readonly BlocksInMemory[],
): ScanEnd {
  const { components } = scan;
  const memory = new Uint8Array(exports.memory.buffer);
  const tables = [...new Set(components.flatMap(({ dc, ac }) => [dc, ac]))].filter((codes) => codes !== null);
  const codesAt = new Map(tables.map((codes, i) => [codes, own + TABLE_BYTES + i * CODES_BYTES]));
  for (const [codes, at] of codesAt) putCodes(memory, at, codes);
  const numbers = new Int32Array(exports.memory.buffer, own, PER_SCAN + components.length * PER_COMPONENT);
  const { first, last, high, low, restartInterval, progressive, units } = scan;
  numbers.set([components.length, first, last, high, low, restartInterval, progressive ? 1 : 0, file.size, file.from, 0, units, 0]);
  components.forEach(({ index, dc, ac }, i) => {
    const { at, stride, across, down, blocksAcross, blocksDown } = blocks[index]!;
    const place = PER_SCAN + i * PER_COMPONENT;
    numbers.set([at, stride, across, down, blocksAcross, blocksDown, dc ? codesAt.get(dc)! : 0, ac ? codesAt.get(ac)! : 0], place);
  });
  const damage = exports.decodeScan(file.at, own);
  return { damage: damage === 0 ? null : DAMAGES[damage - 1]!, position: numbers[8]!, unit: numbers[9]!, left: numbers[11]! };
}

function putCodes(memory: Uint8Array, at: number, { short, first, count, offset, values }: ScanCodes): void {
  memory.set(bytesOf(short), at);
  memory.set(bytesOf(first), at + 1024);
  memory.set(bytesOf(Int32Array.from(count)), at + 1024 + 68);
  memory.set(bytesOf(offset), at + 1024 + 136);
  memory.set(values, at + 1024 + 204);
}
