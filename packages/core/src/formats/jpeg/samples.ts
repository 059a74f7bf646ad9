import type { ByteLines, Widening } from '../../kernels/index.ts';

/**
 * How a component comes to the picture's size. Halved components are weighted three to one from
 * their nearer and farther neighbour, as the usual libraries do; other ratios repeat samples.
 *
 * @param width samples of its lines
 * @param across how many of the picture's pixels a sample stands for; `down` alike
 */
export function wideningOf(width: number, across: number, down: number): Widening {
  if (across === 1 && down === 1) return 'none';
  if (across === 2 && down === 1 && width > 2) return 'halved across';
  if (across === 2 && down === 2 && width > 2) return 'halved both ways';
  if (across === 1 && down === 2) return heighten;
  return (samples, firstLine, lines, out) => repeat(samples, firstLine, lines, out, across, down);
}

function repeat({ width, height, stride, data }: ByteLines, firstLine: number, lines: number, out: Uint8Array, across: number, down: number): void {
  const pixels = out.length / lines;
  for (let y = 0; y < lines; y++) {
    const row = Math.min(height - 1, Math.floor((firstLine + y) / down)) * stride;
    for (let x = 0; x < pixels; x++) out[y * pixels + x] = data[row + Math.min(width - 1, Math.floor(x / across))]!;
  }
}

/** Halved down only: rows three to one, rounding up and down by turns. */
function heighten({ height, stride, data }: ByteLines, firstLine: number, lines: number, out: Uint8Array): void {
  const pixels = out.length / lines;
  for (let i = 0; i < lines; i++) {
    const y = firstLine + i;
    const near = Math.floor(y / 2);
    const far = Math.min(height - 1, Math.max(0, near + (y % 2 === 0 ? -1 : 1)));
    for (let x = 0; x < pixels; x++) out[i * pixels + x] = (data[near * stride + x]! * 3 + data[far * stride + x]! + (y % 2 === 0 ? 1 : 2)) >> 2;
  }
}
