import { unpackHuffmanBlock, type HuffmanDamage, type HuffmanTables } from '../../../kernels/index.ts';
import { PackedDataError } from '../../errors.ts';

/**
 * The Huffman coding of 16-bit values that piz and dwa share (OpenEXR, ImfHuf). Codes are
 * canonical, the longer ones the smaller numbers; one symbol, the highest, stands for "the value
 * before, n times more".
 */

const SYMBOLS = 65537;
/** Codes are looked up by this many bits; longer ones are followed bit by bit. */
const TABLE_BITS = 14;
const LONGEST_CODE = 58;
const HEADER_BYTES = 20;

/**
 * Unpacks a Huffman block.
 *
 * @param count values that must come out
 * @throws PackedDataError when the block is damaged
 */
export function unpackHuffman(packed: Uint8Array, count: number): Uint16Array {
  if (packed.length === 0 && count === 0) return new Uint16Array(0);
  if (packed.length < HEADER_BYTES) throw new PackedDataError('its code table is cut short');
  const view = new DataView(packed.buffer, packed.byteOffset, packed.byteLength);
  const [lowest, highest, , bits] = [0, 4, 8, 12].map((at) => view.getUint32(at, true));
  if (lowest >= SYMBOLS || highest >= SYMBOLS || lowest > highest) throw new PackedDataError('its code table is impossible');
  const reader = new BitReader(packed, HEADER_BYTES);
  const coded = readCodeLengths(reader, lowest, highest);
  const dataStart = reader.bytePosition();
  if (dataStart + Math.ceil(bits / 8) > packed.length) throw new PackedDataError('it is cut short');
  const found = unpackHuffmanBlock(packed.subarray(dataStart, dataStart + Math.ceil(bits / 8)), bits, makeTables(coded), highest, count);
  if (typeof found === 'string') throw new PackedDataError(SAID[found]);
  return found;
}

const SAID: Record<HuffmanDamage, string> = {
  'too many': 'it gives too many values',
  'run over': 'a run goes over its end',
  'no code': 'it holds a code that its table does not have',
  'too few': 'it gives another number of values than are needed',
};

class BitReader {
  private position: number;
  private buffer = 0;
  private held = 0;
  private readonly bytes: Uint8Array;

  constructor(bytes: Uint8Array, position: number) {
    this.bytes = bytes;
    this.position = position;
  }

  /** Up to 16 bits, the highest first. */
  take(count: number): number {
    this.fill(count);
    this.held -= count;
    return (this.buffer >>> this.held) & ((1 << count) - 1);
  }

  private fill(count: number): void {
    // Behind the end come zeros; whoever reads counts the bits.
    while (this.held < count) {
      this.buffer = (this.buffer << 8) | (this.position < this.bytes.length ? this.bytes[this.position] : 0);
      this.position++;
      this.held += 8;
    }
  }

  /** The first byte that no taken bit comes from. */
  bytePosition(): number {
    return this.position - (this.held >> 3);
  }
}

/** The symbols that have a code, ascending: of 65,537 a chunk uses some hundreds, and nothing goes over the others. */
interface CodedSymbols {
  readonly symbols: Uint32Array;
  /** Bits of each one's code. */
  readonly lengths: Uint8Array;
}

/** Lengths of 6 bits each; the highest values stand for runs of symbols without a code. */
function readCodeLengths(reader: BitReader, lowest: number, highest: number): CodedSymbols {
  const SHORT_RUN = 59;
  const LONG_RUN = 63;
  const symbols = new Uint32Array(highest - lowest + 1);
  const lengths = new Uint8Array(highest - lowest + 1);
  let coded = 0;
  for (let symbol = lowest; symbol <= highest;) {
    const length = reader.take(6);
    if (length < SHORT_RUN) {
      if (length > 0) {
        symbols[coded] = symbol;
        lengths[coded++] = length;
      }
      symbol++;
      continue;
    }
    const run = length === LONG_RUN ? reader.take(8) + 2 + LONG_RUN - SHORT_RUN : length - SHORT_RUN + 2;
    if (symbol + run > highest + 1) throw new PackedDataError('its code table runs over');
    symbol += run;
  }
  return { symbols: symbols.subarray(0, coded), lengths: lengths.subarray(0, coded) };
}

function makeTables({ symbols, lengths }: CodedSymbols): HuffmanTables {
  const count = new Uint32Array(LONGEST_CODE + 1);
  for (const length of lengths) count[length]++;
  const first = new BigUint64Array(LONGEST_CODE + 1);
  let code = 0n;
  for (let length = LONGEST_CODE; length > 0; length--) {
    first[length] = code;
    code = (code + BigInt(count[length])) >> 1n;
  }
  const offset = new Uint32Array(LONGEST_CODE + 2);
  for (let length = 1; length <= LONGEST_CODE; length++) offset[length + 1] = offset[length] + count[length];
  const sorted = new Uint32Array(offset[LONGEST_CODE + 1]);
  const next = offset.slice();
  const table = new Uint32Array(1 << TABLE_BITS);
  for (let i = 0; i < symbols.length; i++) {
    const [symbol, length] = [symbols[i], lengths[i]];
    const place = next[length]++;
    sorted[place] = symbol;
    if (length > TABLE_BITS) continue;
    const spread = 1 << (TABLE_BITS - length);
    const start = (Number(first[length]) + place - offset[length]) * spread;
    if (start + spread > table.length) throw new PackedDataError('its codes overlap');
    table.fill(symbol * 64 + length, start, start + spread);
  }
  return { table, first, count, offset, sorted };
}
