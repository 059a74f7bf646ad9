import { FrameFileError, NotDecodedError, PackedDataError } from '../errors.ts';
import type { CodecTools, SalvageTools } from '../frame.ts';
import { blockRowBytes, blockRows } from './check.ts';
import type { TiffImage } from './header.ts';
import { isOldLzw, unpackBits, unpackLzw } from './packing.ts';
import { undoPredictor } from './predictor.ts';
import type { BlockSamples } from './samples.ts';

/** How many bytes one packed byte can become at most; LZW's longest code stands for 3840 bytes in 12 bits. */
export const LARGEST_RATIO: Readonly<Record<string, number>> = { none: 1, lzw: 2731, zip: 1032, packbits: 64 };

/** Writers may fill a block beyond its rows, to a whole block and somewhat more; that much is let pass. */
const MOST_SURPLUS = 65536;

/**
 * Unpacks one block and undoes its predictor. Whatever it holds beyond its rows is not looked at.
 *
 * @returns the samples of its rows; never a view of the file
 * @throws FrameFileError, NotDecodedError
 */
export function unpackBlock(bytes: Uint8Array, image: TiffImage, index: number, tools: CodecTools): BlockSamples {
  const { offsets, byteCounts } = image.blocks;
  const stored = bytes.subarray(offsets[index], offsets[index] + byteCounts[index]);
  const packed = image.bitsReversed ? reverseBits(stored) : stored;
  const rowBytes = blockRowBytes(image);
  try {
    return undoPredictor(unpack(image, packed, rowBytes * blockRows(image, index), tools), image, rowBytes);
  } catch (thrown) {
    if (!(thrown instanceof PackedDataError)) throw thrown;
    throw new FrameFileError('corrupt', `The block at byte ${offsets[index]} cannot be unpacked: ${thrown.message}.`);
  }
}

/**
 * The beginning of a block that is cut or damaged, where a packing can be read that far.
 *
 * @returns the samples with zeros where there are none, and how many rows are whole
 */
export function unpackStart(bytes: Uint8Array, image: TiffImage, index: number, tools: SalvageTools): { samples: BlockSamples; rows: number } | null {
  if (image.compression !== 'none' && image.compression !== 'zip') return null;
  const { offsets, byteCounts } = image.blocks;
  const stored = bytes.subarray(offsets[index], offsets[index]! + byteCounts[index]!);
  const packed = image.bitsReversed ? reverseBits(stored) : stored;
  const rowBytes = blockRowBytes(image);
  const all = new Uint8Array(rowBytes * blockRows(image, index));
  const start = image.compression === 'none' ? packed : tools.inflateStart(packed, all.length + MOST_SURPLUS);
  const rows = Math.min(blockRows(image, index), Math.floor(start.length / rowBytes));
  all.set(start.subarray(0, rows * rowBytes));
  return { samples: undoPredictor(all, image, rowBytes), rows };
}

function unpack(image: TiffImage, packed: Uint8Array, size: number, tools: CodecTools): Uint8Array {
  switch (image.compression) {
    case 'lzw':
      if (isOldLzw(packed)) throw new NotDecodedError('LZW as it was before version 6 cannot be looked into; the structure of the file is whole.');
      return unpackLzw(packed, size);
    case 'packbits':
      return unpackBits(packed, size);
    case 'none':
      // Not slice(): where the bytes are a Node buffer, that would be a view.
      return new Uint8Array(packed.subarray(0, size));
    default: {
      const whole = blockRowBytes(image) * image.blocks.height;
      const pixels = tools.inflate(packed, 2 * whole + MOST_SURPLUS);
      if (pixels.length < size) throw new PackedDataError(`it gives ${pixels.length} bytes where ${size} are needed`);
      return pixels.subarray(0, size);
    }
  }
}

const REVERSED = Uint8Array.from({ length: 256 }, (_, byte) => {
  let reversed = 0;
  for (let bit = 0; bit < 8; bit++) reversed |= ((byte >> bit) & 1) << (7 - bit);
  return reversed;
});

/** Turns the bits of every byte round: FillOrder 2 (section 8), for packed bytes and plain ones alike. */
function reverseBits(bytes: Uint8Array): Uint8Array {
  const out = new Uint8Array(bytes.length);
  for (let i = 0; i < bytes.length; i++) out[i] = REVERSED[bytes[i]];
  return out;
}
