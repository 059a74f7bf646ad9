import { LUMINANCE_WEIGHTS } from '../assay/index.ts';

/** Luminance of three planes; one plane is its own. */
export function greyOf(planes: readonly Float32Array[]): Float32Array {
  const [red, green, blue] = planes;
  if (!green || !blue) return red!;
  const [ofRed, ofGreen, ofBlue] = LUMINANCE_WEIGHTS;
  const grey = new Float32Array(red!.length);
  for (let i = 0; i < grey.length; i++) grey[i] = ofRed * red![i]! + ofGreen * green[i]! + ofBlue * blue[i]!;
  return grey;
}
