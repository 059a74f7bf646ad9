import { FrameFileError } from '../errors.ts';
import { isRestart } from './markers.ts';

/** A Huffman table (section C) as a look-up by the next bits. */
export interface HuffmanTable {
  /** By nine bits: value times 16 plus length; 0 where the code is longer. */
  readonly short: Uint16Array;
  /** Codes of each length: the first, how many, and where their values begin. */
  readonly first: Int32Array;
  readonly count: Uint8Array;
  readonly offset: Int32Array;
  readonly values: Uint8Array;
}

const SHORT_BITS = 9;

/** Makes a table of the counts by length and the values that DHT lists. @throws FrameFileError */
export function makeHuffmanTable(counts: Uint8Array, values: Uint8Array): HuffmanTable {
  const short = new Uint16Array(1 << SHORT_BITS);
  const first = new Int32Array(17);
  const offset = new Int32Array(17);
  const count = new Uint8Array(17);
  let code = 0;
  let place = 0;
  for (let length = 1; length <= 16; length++) {
    first[length] = code;
    offset[length] = place;
    count[length] = counts[length - 1];
    if (code + count[length] > 1 << length) throw new FrameFileError('corrupt', 'A table of codes is impossible.');
    for (let i = 0; i < count[length]; i++, code++, place++) {
      if (length > SHORT_BITS) continue;
      const start = code << (SHORT_BITS - length);
      short.fill(values[place] * 16 + length, start, start + (1 << (SHORT_BITS - length)));
    }
    code <<= 1;
  }
  return { short, first, count, offset, values };
}

/** Reads entropy-coded bits up to the next marker. */
export class ScanBits {
  position: number;
  private buffer = 0;
  private held = 0;
  /** Bits that had to be made up because a marker or the end of the file came first. */
  private missing = 0;
  private readonly bytes: Uint8Array;

  constructor(bytes: Uint8Array, position: number) {
    this.bytes = bytes;
    this.position = position;
  }

  private fill(): void {
    while (this.held <= 16) {
      let byte = 0;
      const { bytes, position } = this;
      if (position >= bytes.length) this.missing += 8;
      else if (bytes[position] !== 0xff) {
        byte = bytes[position];
        this.position++;
      } else if (bytes[position + 1] === 0) {
        byte = 0xff;
        this.position += 2;
      } else this.missing += 8;
      this.buffer = ((this.buffer << 8) | byte) & 0x1ffffff;
      this.held += 8;
    }
  }

  /** Whether bits have been used that the file does not hold. */
  get isPastEnd(): boolean {
    return this.missing > this.held;
  }

  get endsFile(): boolean {
    return this.position >= this.bytes.length - 1;
  }

  bit(): number {
    if (this.held < 1) this.fill();
    this.held--;
    return (this.buffer >>> this.held) & 1;
  }

  /** Up to 16 bits. */
  take(count: number): number {
    if (count === 0) return 0;
    if (this.held < count) this.fill();
    this.held -= count;
    return (this.buffer >>> this.held) & ((1 << count) - 1);
  }

  /** Bits as a signed number (section F.2.2.1, EXTEND). */
  signed(count: number): number {
    const value = this.take(count);
    return value < 1 << (count - 1) ? value - (1 << count) + 1 : value;
  }

  /** Decodes one symbol. @throws FrameFileError for a code that the table does not have */
  symbol(table: HuffmanTable): number {
    if (this.held < 16) this.fill();
    const entry = table.short[(this.buffer >>> (this.held - SHORT_BITS)) & ((1 << SHORT_BITS) - 1)];
    if (entry !== 0) {
      this.held -= entry & 15;
      return entry >> 4;
    }
    for (let length = SHORT_BITS + 1; length <= 16; length++) {
      const place = ((this.buffer >>> (this.held - length)) & ((1 << length) - 1)) - table.first[length];
      if (place >= 0 && place < table.count[length]) {
        this.held -= length;
        return table.values[table.offset[length] + place];
      }
    }
    throw new FrameFileError('corrupt', `The pixel data before byte ${this.position} holds a code that its table does not have.`);
  }

  /** Goes on behind the restart marker that must come now. @throws FrameFileError */
  restart(number: number): void {
    const unused = this.unusedBytes();
    this.buffer = 0;
    this.held = 0;
    this.missing = 0;
    if (unused > 0) throw new FrameFileError('corrupt', `Pixel data before byte ${this.position} belongs to no block.`);
    const marker = this.bytes[this.position + 1];
    if (this.bytes[this.position] !== 0xff || !isRestart(marker) || (marker & 7) !== number) {
      throw new FrameFileError('corrupt', `There is no restart marker ${number} at byte ${this.position}.`);
    }
    this.position += 2;
  }

  /** Whole bytes that were read ahead and nobody asked for; a scan may be filled up with a whole byte of ones (section F.1.2.3), or of zeros. */
  private unusedBytes(): number {
    let count = 0;
    for (let at = this.missing; at + 8 <= this.held; at += 8) {
      const byte = (this.buffer >>> at) & 0xff;
      if (byte !== 0 && byte !== 0xff) count++;
    }
    return count;
  }

  /** Bytes of pixel data that nobody asked for, up to the next marker; zeros and fill bytes do not count. */
  leftOver(): number {
    let count = this.unusedBytes();
    while (this.position < this.bytes.length - 1) {
      const [byte, next] = [this.bytes[this.position], this.bytes[this.position + 1]];
      if (byte === 0xff && next !== 0 && next !== 0xff && !isRestart(next)) break;
      if (byte !== 0 && byte !== 0xff) count++;
      this.position++;
    }
    return count;
  }
}
