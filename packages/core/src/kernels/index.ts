export { findZeroRuns, joinHalves, sumUpValues, unfilterRows, type PixelSamples, type ValueSums } from './kernels.ts';
