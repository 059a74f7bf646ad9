import { PackedDataError } from '../../errors.ts';
import { floatToHalf, halfToFloat } from '../half.ts';
import { interleave, type ChunkChannel, type ChunkLayout } from './layout.ts';

/**
 * Undoes b44 and b44a (OpenEXR, ImfB44Compressor): half channels lie as blocks of 4 x 4 samples in
 * 14 bytes, or in 3 where all are the same; other channels are stored as they are.
 */
export function unpackB44(packed: Uint8Array, layout: ChunkLayout): Uint8Array {
  let from = 0;
  const planes = layout.channels.map((channel) => {
    const length = channel.across * channel.lines * channel.sampleBytes;
    if (channel.type !== 'half') {
      if (from + length > packed.length) throw new PackedDataError('it ends too early');
      from += length;
      return packed.subarray(from - length, from);
    }
    const { samples, next } = unpackBlocks(packed, from, channel);
    from = next;
    return new Uint8Array(samples.buffer);
  });
  if (from !== packed.length) throw new PackedDataError(`${packed.length - from} bytes are left over`);
  return interleave(layout, planes);
}

function unpackBlocks(packed: Uint8Array, start: number, channel: ChunkChannel): { samples: Uint16Array; next: number } {
  const { across, lines } = channel;
  const samples = new Uint16Array(across * lines);
  const block = new Uint16Array(16);
  let from = start;
  for (let y = 0; y < lines; y += 4) {
    for (let x = 0; x < across; x += 4) {
      if (from + 3 > packed.length) throw new PackedDataError('it ends inside a block');
      // A shift of 13 and more does not occur, and marks a block of one value.
      const flat = packed[from + 2] >= 13 << 2;
      if (!flat && from + 14 > packed.length) throw new PackedDataError('it ends inside a block');
      if (flat) block.fill((packed[from] << 8) | packed[from + 1]);
      else unpackBlock(packed, from, block);
      from += flat ? 3 : 14;
      for (let row = 0; row < 4 && y + row < lines; row++) {
        for (let column = 0; column < 4 && x + column < across; column++) {
          const bits = block[row * 4 + column];
          // Stored so that halves compare like integers: the sign inverted, negatives complemented.
          samples[(y + row) * across + x + column] = (bits & 0x8000) !== 0 ? bits & 0x7fff : ~bits;
        }
      }
    }
  }
  if (channel.perceptuallyLinear) {
    const table = logarithms();
    for (let i = 0; i < samples.length; i++) samples[i] = table[samples[i]];
  }
  return { samples, next: from };
}

/** One value of 16 bits, a shift, and 15 differences of 6 bits: down the first column, then along the rows. */
function unpackBlock(packed: Uint8Array, from: number, block: Uint16Array): void {
  const shift = packed[from + 2] >> 2;
  const bias = 0x20 << shift;
  let bit = 22;
  const difference = () => {
    const at = from + (bit >> 3);
    const value = (((packed[at] << 8) | packed[at + 1]) >> (10 - (bit & 7))) & 0x3f;
    bit += 6;
    return (value << shift) - bias;
  };
  block[0] = (packed[from] << 8) | packed[from + 1];
  for (let row = 1; row < 4; row++) block[row * 4] = block[row * 4 - 4] + difference();
  for (let column = 1; column < 4; column++) {
    for (let row = 0; row < 4; row++) block[row * 4 + column] = block[row * 4 + column - 1] + difference();
  }
}

let logarithmTable: Uint16Array | null = null;

/** 8 ln(x), which undoes exp(x / 8): such channels are packed as exponentials. */
function logarithms(): Uint16Array {
  logarithmTable ??= Uint16Array.from({ length: 65536 }, (_, bits) => {
    const value = halfToFloat(bits);
    return Number.isFinite(value) && value >= 0 ? floatToHalf(8 * Math.log(value)) : 0;
  });
  return logarithmTable;
}
