import { unpackB44Blocks } from '../../../kernels/index.ts';
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
  const unpacked = unpackB44Blocks(packed.subarray(start), channel.across, channel.lines);
  if (!unpacked) throw new PackedDataError('it ends inside a block');
  const { samples, used } = unpacked;
  if (channel.perceptuallyLinear) {
    const table = logarithms();
    for (let i = 0; i < samples.length; i++) samples[i] = table[samples[i]];
  }
  return { samples, next: start + used };
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
