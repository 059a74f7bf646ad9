import { unfilterRows } from '../../kernels/index.ts';
import { FrameFileError } from '../errors.ts';

/**
 * Undoes the row filters (PNG section 9.2).
 *
 * @param filtered rows of one filter byte and `rowBytes` bytes; what comes out is written over them
 * @param turned whether samples are of 16 bits: they come out in the order of bytes that typed arrays have
 * @returns the rows without their filter bytes
 * @throws FrameFileError `corrupt` for a filter that PNG does not have
 */
export function unfilter(filtered: Uint8Array, rowBytes: number, height: number, bytesPerPixel: number, turned: boolean): Uint8Array {
  const rows = unfilterRows(filtered, rowBytes, height, bytesPerPixel, turned);
  if (typeof rows === 'number') {
    throw new FrameFileError('corrupt', `Row ${rows} names filter ${filtered[rows * (rowBytes + 1)]}, which PNG does not have.`);
  }
  return rows;
}

/** The Paeth predictor (section 9.4): the neighbour closest to left + up - upper left. */
function paeth(a: number, b: number, c: number): number {
  const pa = Math.abs(b - c);
  const pb = Math.abs(a - c);
  const pc = Math.abs(a + b - 2 * c);
  return pa <= pb && pa <= pc ? a : pb <= pc ? b : c;
}

/**
 * Filters rows for packing, choosing for each row the filter whose output has the least sum of
 * absolute values, the heuristic that section 12.7 recommends.
 *
 * @param rows `height` rows of `rowBytes` bytes, one after the other
 * @returns rows with their filter bytes
 */
export function filterRows(rows: Uint8Array, rowBytes: number, height: number, bytesPerPixel: number): Uint8Array {
  const out = new Uint8Array(height * (rowBytes + 1));
  const tries = Array.from({ length: 5 }, () => new Uint8Array(rowBytes));
  for (let row = 0; row < height; row++) {
    const start = row * rowBytes;
    const sums = [0, 0, 0, 0, 0];
    for (let i = 0; i < rowBytes; i++) {
      const x = rows[start + i];
      const a = i >= bytesPerPixel ? rows[start + i - bytesPerPixel] : 0;
      const b = row > 0 ? rows[start + i - rowBytes] : 0;
      const c = row > 0 && i >= bytesPerPixel ? rows[start + i - rowBytes - bytesPerPixel] : 0;
      const predictions = [0, a, b, (a + b) >> 1, paeth(a, b, c)];
      for (let filter = 0; filter < 5; filter++) {
        const value = (x - predictions[filter]) & 0xff;
        tries[filter]![i] = value;
        sums[filter] += value < 128 ? value : 256 - value;
      }
    }
    const best = sums.indexOf(Math.min(...sums));
    out[row * (rowBytes + 1)] = best;
    out.set(tries[best]!, row * (rowBytes + 1) + 1);
  }
  return out;
}
