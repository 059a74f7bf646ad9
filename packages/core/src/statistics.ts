/** The middle of some values, half of them on either side; NaN of none. */
export function median(values: readonly number[]): number {
  const sorted = Float64Array.from(values).sort();
  const middle = sorted.length >> 1;
  return sorted.length % 2 === 1 ? sorted[middle] : (sorted[middle - 1] + sorted[middle]) / 2;
}

/** The mean of some values; NaN of none. */
export function mean(values: readonly number[]): number {
  return values.reduce((sum, value) => sum + value, 0) / values.length;
}

/** A value brought within limits. */
export const clip = (value: number, least: number, most: number): number => Math.min(most, Math.max(least, value));
