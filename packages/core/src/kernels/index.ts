export { findZeroRuns, joinHalves, pairBytes, sumUpValues, unfilterRows, type PixelSamples, type ValueSums } from './kernels.ts';
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
export { rgbOfLumaAndChroma, samplesOfBlocks, widenSamples, type ByteLines, type CoefficientBlocks } from './jpeg.ts';
export { decodeScanBits, type ScanCodes, type ScanComponent, type ScanDamage } from './jpeg-scan.ts';
