export {
  findZeroRuns,
  joinHalves,
  mixHalves,
  pairBytes,
  roundToHalves,
  splitHalves,
  sumUpValues,
  toldAround,
  unfilterRows,
  wholeAround,
  type PixelSamples,
  type ValueSums,
} from './kernels.ts';
export {
  undoWavelets,
  unpackB44Blocks,
  unpackCosineBlocks,
  unpackHuffmanBlock,
  unpackLzwStream,
  type Damage,
  type HuffmanDamage,
  type HuffmanTables,
  type WaveletPlane,
} from './packings.ts';
export { JpegPicture, type ByteLines, type ComponentShape, type Widening } from './jpeg.ts';
export type { Scan, ScanCodes, ScanDamage } from './jpeg-scan.ts';
export { shareOf, weighedBeside, type OwnPixels } from './steady-pixels.ts';
export { lightAndNoise, trustInLight } from './pixel-noise.ts';
export { filterPicture, type FilterFeature, type PictureToFilter } from './filter-picture.ts';
export { cutMeans, fitPicture, type CutLimits } from './fit-picture.ts';
export type { FitPlane, LeftOver, PictureFit, Sight } from './picture-to-fit.ts';
export {
  areNumbers,
  countOddPixels,
  eachPlaneBrought,
  edgesAlong,
  isAnyBelow,
  placesAfter,
  placesBefore,
  planesBrought,
  sumOfChanges,
  type Stretches,
} from './planes.ts';
export { boxMean } from './means.ts';
