/** Mean of the figures that are known; null where none is. */
export function meanKnown(figures: readonly (number | null)[]): number | null {
  const known = figures.filter((value) => value !== null);
  return known.length === 0 ? null : known.reduce((sum, value) => sum + value, 0) / known.length;
}
