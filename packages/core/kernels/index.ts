// The inner loops that go over every byte of a frame, in AssemblyScript (TypeScript's syntax, compiled to
// WebAssembly with vectors of 16 bytes). Everything here takes addresses in the kernels' own memory; what calls
// it, and what each is for, stands in ../src/kernels/kernels.ts.
export { addHalves, joinHalves, pairBytes, roundToHalves, splitHalves } from './halves';
export { boxMeans } from './means';
export { swapShorts, unfilterRows } from './filters';
export { toSamples } from './jpeg-cosine';
export { toRgb, widen } from './jpeg-colours';
export { decodeScan } from './jpeg-scan';
export { unpackLzw } from './lzw';
export { unpackHuffman } from './huffman';
export { lookUp, undoWavelet } from './wavelet';
export { unpackB44 } from './b44';
export { unpackCosine } from './cosine';
export {
  bringStrip,
  cleanStrip,
  countTiles,
  cutTiles,
  eitherStrip,
  hideDepths,
  hideNormals,
  knownStrip,
  multiplyStrip,
  nearStrip,
  shareStrip,
  sumTiles,
} from './noise';
export { tellPixels, wholeAround, widenMask } from './masks';
export { rimStrip } from './rims';
export { fitTiles, mixTiles } from './tile-fits';
export { highPassColumn, laplacianColumn, layOutColumn, spreadColumn } from './tile-columns';
export { multiplyFirst, multiplyTiles } from './tile-sums';
export { bringPixels, placesAfter, placesBefore, togetherByPixel } from './places';
export { addEdges, countOdd, hasBelow, hasNoNumber, sumChanges } from './planes';
export { shareNeighbour, weighNeighbour } from './steady';
export { tellNoise, tellTrust } from './pixel-noise';
export { denoiseStrip, scalePlane, takeSaid } from './denoise';
export { markZeros, zeroRuns } from './zeros';
export { factsOfBytes, factsOfFloats, factsOfHalves, factsOfShorts } from './facts';

/** Where the memory begins that callers may use. */
export function firstFreeAddress(): usize {
  return (__heap_base + 63) & ~63;
}
export { litStrip, surfaceStrip } from './surfaces';
export { withinStrip } from './within';
