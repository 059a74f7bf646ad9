/** A value in full: whole numbers as they are, others with as many places as tell a half or a float from its neighbours. */
export function sayValue(value: number, type: 'u8' | 'u16' | 'uint' | 'half' | 'float'): string {
  if (Number.isInteger(value) && Math.abs(value) < 1e6) return String(value);
  return Number.isFinite(value) ? String(Number(value.toPrecision(type === 'half' ? 5 : 9))) : String(value);
}
