/** A scene-linear value as sRGB encodes it (IEC 61966-2-1), clipped to 0..1; what is no number is 0. */
export function encodeSRgb(value: number): number {
  if (!(value > 0)) return 0;
  return Math.min(1, value <= 0.0031308 ? 12.92 * value : 1.055 * value ** (1 / 2.4) - 0.055);
}
