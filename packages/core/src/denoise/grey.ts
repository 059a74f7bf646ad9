/** ITU-R BT.709, section 3.2: the weights of red, green and blue. */
const WEIGHTS = [0.2126, 0.7152, 0.0722] as const;

/** Luminance of three planes; one plane is its own. */
export function greyOf(planes: readonly Float32Array[]): Float32Array {
  const [red, green, blue] = planes;
  if (!green || !blue) return red!;
  return red!.map((value, i) => WEIGHTS[0] * value + WEIGHTS[1] * green[i]! + WEIGHTS[2] * blue[i]!);
}
