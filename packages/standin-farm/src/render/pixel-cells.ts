/** Where a sample may lie in its pixel: in one of the columns of its row, and in rows of which the last is the lower the fewer columns it has. */
export interface Cell {
  readonly column: number;
  readonly across: number;
  readonly row: number;
  readonly height: number;
  readonly down: number;
}

/** Anywhere in the pixel. */
export const WHOLE_PIXEL: Cell = { column: 0, across: 1, row: 0, height: 1, down: 1 };

/**
 * Samples are spread over a grid in the pixel, each somewhere in a cell of its own. All cells are of one size, whatever
 * their number: a grid of which some stayed empty would shift the picture.
 *
 * @param count samples of the pixel, and so cells
 * @param mayEnd whether the frame may end before all samples are taken: then those that are lie all over the pixel
 */
export function cellOf(sample: number, count: number, mayEnd: boolean): Cell {
  const place = mayEnd ? (sample * strideOf(count)) % count : sample;
  const widest = Math.ceil(Math.sqrt(count));
  const row = Math.floor(place / widest);
  const across = Math.min(widest, count - row * widest);
  return { column: place - row * widest, across, row, height: across / widest, down: count / widest };
}

/** A step through so many places that comes to all of them, and after few steps lies all over them (by the golden ratio). */
function strideOf(count: number): number {
  let stride = Math.max(1, Math.round(count * 0.618034));
  while (commonDivisor(stride, count) > 1) stride++;
  return stride;
}

const commonDivisor = (a: number, b: number): number => (b === 0 ? a : commonDivisor(b, a % b));
