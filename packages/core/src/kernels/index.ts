export { joinHalves, sumUpValues, unfilterRows, type ValueSums } from './kernels.ts';
