import { FrameFileError } from '../errors.ts';

/**
 * Undoes the row filters in place (PNG section 9.2). Each row is one filter byte and `rowBytes`
 * bytes; the filter byte stays where it is.
 *
 * @throws FrameFileError `corrupt` for a filter that PNG does not have
 */
export function unfilter(raw: Uint8Array, start: number, rowBytes: number, height: number, bytesPerPixel: number): void {
  for (let row = 0; row < height; row++) {
    const here = start + row * (rowBytes + 1) + 1;
    const above = here - rowBytes - 1;
    const end = here + rowBytes;
    const filter = raw[here - 1];
    if (filter === 0) continue;
    if (filter === 1) unfilterSub(raw, here, end, bytesPerPixel);
    else if (filter === 2) {
      if (row > 0) for (let i = here, up = above; i < end; i++, up++) raw[i] += raw[up];
    } else if (filter === 3) unfilterAverage(raw, here, end, bytesPerPixel, row > 0 ? above : -1);
    else if (filter === 4) {
      // Without a row above, Paeth always predicts from the left (section 9.4).
      if (row === 0) unfilterSub(raw, here, end, bytesPerPixel);
      else unfilterPaeth(raw, here, end, bytesPerPixel, above);
    } else throw new FrameFileError('corrupt', `Row ${row} names filter ${filter}, which PNG does not have.`);
  }
}

function unfilterSub(raw: Uint8Array, here: number, end: number, bytesPerPixel: number): void {
  for (let i = here + bytesPerPixel; i < end; i++) raw[i] += raw[i - bytesPerPixel];
}

function unfilterAverage(raw: Uint8Array, here: number, end: number, bytesPerPixel: number, above: number): void {
  const firstEnd = Math.min(end, here + bytesPerPixel);
  if (above < 0) {
    for (let i = firstEnd; i < end; i++) raw[i] += raw[i - bytesPerPixel] >> 1;
    return;
  }
  for (let i = here, up = above; i < firstEnd; i++, up++) raw[i] += raw[up] >> 1;
  for (let i = firstEnd, up = above + bytesPerPixel, left = here; i < end; i++, up++, left++) raw[i] += (raw[left] + raw[up]) >> 1;
}

function unfilterPaeth(raw: Uint8Array, here: number, end: number, bytesPerPixel: number, above: number): void {
  const firstEnd = Math.min(end, here + bytesPerPixel);
  for (let i = here; i < firstEnd; i++) raw[i] += raw[above + i - here];
  for (let i = firstEnd, up = above + bytesPerPixel; i < end; i++, up++) {
    const a = raw[i - bytesPerPixel];
    const b = raw[up];
    const c = raw[up - bytesPerPixel];
    let pa = b - c;
    let pb = a - c;
    let pc = pa + pb;
    if (pa < 0) pa = -pa;
    if (pb < 0) pb = -pb;
    if (pc < 0) pc = -pc;
    raw[i] += pa <= pb && pa <= pc ? a : pb <= pc ? b : c;
  }
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
        tries[filter][i] = value;
        sums[filter] += value < 128 ? value : 256 - value;
      }
    }
    const best = sums.indexOf(Math.min(...sums));
    out[row * (rowBytes + 1)] = best;
    out.set(tries[best], row * (rowBytes + 1) + 1);
  }
  return out;
}
