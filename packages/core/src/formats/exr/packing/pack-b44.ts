import { forEachPiece, type ChunkLayout } from './layout.ts';

/** Differences are stored with this added, in six bits. */
const BIAS = 0x20;
/** The samples whose difference each of the 15 numbers of a block is. */
const PAIRS = [
  ...[
    [0, 4],
    [4, 8],
    [8, 12],
  ],
  ...[0, 1, 2].flatMap((column) => [0, 4, 8, 12].map((row) => [row + column, row + column + 1])),
] as const;

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
        const [y, x] = [Math.min(lines - 1, top + (i >> 2)), Math.min(across - 1, left + (i & 3))];
        block[i] = inOrder(samples[y * across + x]!);
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
  const largest = block.reduce((most, value) => Math.max(most, value), 0);
  const below = new Int32Array(16);
  let shift = -1;
  let differences: number[];
  do {
    shift++;
    for (let i = 0; i < 16; i++) below[i] = shiftAndRound(largest - block[i]!, shift);
    differences = PAIRS.map(([a, b]) => below[a!]! - below[b!]! + BIAS);
  } while (differences.some((value) => value < 0 || value > 0x3f));
  const first = (largest - (below[0]! << shift)) & 0xffff;
  out.push(first >> 8, first & 0xff);
  // Six bits each: the shift, then the differences.
  const six = [shift, ...differences];
  for (let i = 0; i < 16; i += 4) {
    const bits = (six[i]! << 18) | (six[i + 1]! << 12) | (six[i + 2]! << 6) | six[i + 3]!;
    out.push((bits >> 16) & 0xff, (bits >> 8) & 0xff, bits & 0xff);
  }
}

/** Divides by a power of two and rounds, halves to the even one. */
function shiftAndRound(value: number, shift: number): number {
  const doubled = value << 1;
  return (doubled + ((1 << shift) - 1) + ((doubled >> (shift + 1)) & 1)) >> (shift + 1);
}
