import { forEachPiece, type ChunkLayout } from './layout.ts';

/** Differences are stored with this added, in six bits. */
const BIAS = 0x20;
/** The samples whose difference each of the 15 numbers of a block is: down the first column, then across each row. */
const FIRST = [0, 4, 8, 0, 4, 8, 12, 1, 5, 9, 13, 2, 6, 10, 14] as const;
const SECOND = [4, 8, 12, 1, 5, 9, 13, 2, 6, 10, 14, 3, 7, 11, 15] as const;

/**
 * Packs a chunk with b44 (OpenEXR, ImfB44Compressor): halves as blocks of 4 x 4 samples in 14 bytes, everything else as it is.
 * A block keeps its largest value exactly, and of the others as much as six bits a difference hold. Null when it would not become
 * smaller.
 */
export function packB44(pixels: Uint8Array, layout: ChunkLayout): Uint8Array | null {
  const planes = layout.channels.map(({ across, lines, sampleBytes }) => new Uint8Array(across * lines * sampleBytes));
  forEachPiece(layout, (c, line, position, length) => planes[c]!.set(pixels.subarray(position, position + length), line * length));
  const out: number[] = [];
  layout.channels.forEach(({ type, across, lines }, c) => {
    if (type === 'half') packBlocks(new Uint16Array(planes[c]!.buffer), across, lines, out);
    else for (const byte of planes[c]!) out.push(byte);
  });
  return out.length < pixels.length ? Uint8Array.from(out) : null;
}

function packBlocks(samples: Uint16Array, across: number, lines: number, out: number[]): void {
  const block = new Uint16Array(16);
  for (let top = 0; top < lines; top += 4) {
    for (let left = 0; left < across; left += 4) {
      for (let i = 0; i < 16; i++) {
        // Beyond the edge the last samples go on.
        const row = Math.min(lines - 1, top + (i >> 2)) * across;
        block[i] = inOrder(samples[row + Math.min(across - 1, left + (i & 3))]!);
      }
      packBlock(block, out);
    }
  }
}

/** A half's bits so that larger numbers are larger values; what is no number is the middle. */
function inOrder(bits: number): number {
  if ((bits & 0x7c00) === 0x7c00) return 0x8000;
  return bits & 0x8000 ? ~bits & 0xffff : bits | 0x8000;
}

function packBlock(block: Uint16Array, out: number[]): void {
  let largest = 0;
  for (let i = 0; i < 16; i++) if (block[i]! > largest) largest = block[i]!;
  let shift = 0;
  while (!fitsShifted(block, largest, shift)) shift++;
  const first = (largest - (below[0]! << shift)) & 0xffff;
  out.push(first >> 8, first & 0xff);
  // Six bits each: the shift, then the differences.
  six[0] = shift;
  for (let i = 0; i < 16; i += 4) {
    const bits = (six[i]! << 18) | (six[i + 1]! << 12) | (six[i + 2]! << 6) | six[i + 3]!;
    out.push((bits >> 16) & 0xff, (bits >> 8) & 0xff, bits & 0xff);
  }
}

/** How far each sample of a block is below its largest, and what is written of it. */
const below = new Int32Array(16);
const six = new Int32Array(16);

/** Whether all differences fit six bits when so many of the lowest are left away. */
function fitsShifted(block: Uint16Array, largest: number, shift: number): boolean {
  for (let i = 0; i < 16; i++) below[i] = shiftAndRound(largest - block[i]!, shift);
  for (let pair = 0; pair < 15; pair++) {
    const difference = below[FIRST[pair]!]! - below[SECOND[pair]!]! + BIAS;
    if (difference < 0 || difference > 0x3f) return false;
    six[pair + 1] = difference;
  }
  return true;
}

/** Divides by a power of two and rounds, halves to the even one. */
function shiftAndRound(value: number, shift: number): number {
  const doubled = value << 1;
  return (doubled + ((1 << shift) - 1) + ((doubled >> (shift + 1)) & 1)) >> (shift + 1);
}
