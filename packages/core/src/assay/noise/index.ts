export { noiseAlongShot, samplingOf, type FrameNoise, type MeasuredFrame, type Sampling, type ShotNoise } from './along-shot.ts';
export { FARTHEST, type NoiseBuffers } from './buffers.ts';
export {
  conventions,
  findConvention,
  sayConvention,
  type Convention,
  type FoundConvention,
  type VectorWitness,
  toPixels,
  USUAL_CONVENTION,
} from './convention.ts';
export { filledIn, numbersOf } from './columns.ts';
export { findFireflies } from './fireflies.ts';
export { differenceOfHalves } from './halves.ts';
export { measureFrame, type FrameFigures } from './measure-frame.ts';
export { alphaOf, asVectors, componentsBeside, readBuffers, readVectors, type FramePasses, type PassFrame } from './read-buffers.ts';
export { chain, placesInNext, placesInPrevious, type Places } from './warp.ts';
export { alongTiles, gridOf, type TileGrid } from './tiles.ts';
