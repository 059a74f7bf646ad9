import { PackedDataError } from '../errors.ts';
import type { TiffImage } from './header.ts';
import { toSamples, type BlockSamples } from './samples.ts';

/**
 * Undoes the differences along rows: predictor 2 (section 14), also of samples with 64 bits, and 3 (Technical Note 3).
 *
 * @param bytes of one block, the block's own: changed
 * @throws PackedDataError for a predictor that TIFF does not have
 */
export function undoPredictor(bytes: Uint8Array, image: TiffImage, rowBytes: number): BlockSamples {
  const { bits, predictor } = image;
  const { littleEndian } = image.layout;
  const samples = image.planar ? 1 : image.samples;
  if (predictor === 1) return toSamples(bytes, bits, littleEndian);
  if (predictor === 3) {
    for (let start = 0; start < bytes.length; start += rowBytes) undoFloats(bytes.subarray(start, start + rowBytes), samples, bits / 8);
    return toSamples(bytes, bits, true);
  }
  if (predictor !== 2) throw new PackedDataError(`predictor ${predictor} is none that TIFF has`);
  if (![8, 16, 32, 64].includes(bits)) throw new PackedDataError(`predictor 2 is not defined for ${bits} bits`);
  const values = toSamples(bytes, bits, littleEndian);
  const rowSamples = rowBytes / (bits / 8);
  // One call for each kind of array, so that each is compiled for its own.
  if (values instanceof BigUint64Array) addUpLong(values, rowSamples, samples);
  else if (values instanceof Uint32Array) addUp(values, rowSamples, samples);
  else if (values instanceof Uint16Array) addUpShort(values, rowSamples, samples);
  else addUpBytes(values, rowSamples, samples);
  return values;
}

function addUp(values: Uint32Array, rowSamples: number, step: number): void {
  for (let start = 0; start < values.length; start += rowSamples) for (let i = start + step; i < start + rowSamples; i++) values[i] += values[i - step];
}

function addUpShort(values: Uint16Array, rowSamples: number, step: number): void {
  for (let start = 0; start < values.length; start += rowSamples) for (let i = start + step; i < start + rowSamples; i++) values[i] += values[i - step];
}

function addUpBytes(values: Uint8Array, rowSamples: number, step: number): void {
  for (let start = 0; start < values.length; start += rowSamples) for (let i = start + step; i < start + rowSamples; i++) values[i] += values[i - step];
}

function addUpLong(values: BigUint64Array, rowSamples: number, step: number): void {
  for (let start = 0; start < values.length; start += rowSamples) for (let i = start + step; i < start + rowSamples; i++) values[i]! += values[i - step]!;
}

/** A row's bytes plane by plane, the highest first, as differences; the lowest byte comes first afterwards. */
function undoFloats(row: Uint8Array, samples: number, sampleBytes: number): void {
  for (let i = samples; i < row.length; i++) row[i] += row[i - samples];
  // Not slice(): where the bytes are a Node buffer, that would be a view.
  const planes = new Uint8Array(row);
  const count = row.length / sampleBytes;
  for (let b = 0; b < sampleBytes; b++) {
    const to = sampleBytes - 1 - b;
    for (let i = 0; i < count; i++) row[i * sampleBytes + to] = planes[b * count + i];
  }
}
