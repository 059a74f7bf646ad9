export { grainOf, meanOf } from './grain.ts';
export { keptAssaySchema, type AssayedFrame, type KeptAssay, type KeptFrame } from './assayed-frame.ts';
export { bandedShare, measureGradients } from './gradients.ts';
export { sumOfLights, type LightSum } from './light-sum.ts';
export { LUMINANCE_WEIGHTS, luminanceOf, type Luminance } from './luminance.ts';
export { pairDifference, PairError, TILE } from './pair-noise.ts';
export { readRenderNotes, type RenderNotes } from './render-notes.ts';
export { notesOf, type NoteKind } from './writer-notes.ts';
export { measureTestRenders, type MeasuredTests, type Render, type Seeds } from './test-renders.ts';
export * from './pixel-facts/index.ts';
export * from './noise/index.ts';
export { componentsOf, movedTo, numbersOfPlane, placeOf, type Components } from './components.ts';
export { paintSum, type SumPicture } from './sum-picture.ts';
export { depthOrder, type DepthOrder } from './depth-order.ts';
export { matteGap } from './matte-sum.ts';
export { alphaGap } from './alpha-gap.ts';
export { depthSpan, nothingMet, type DepthSpan } from './depth-figures.ts';
export { changedPixels, changeFits, edgesOf, oddShare, type ChangeFits, type PassFigures } from './pass-figures.ts';
export { windowsOf, type PassWindows } from './window-figures.ts';
export { standingShare, unexplainedBy } from './vector-figures.ts';
export { sayMeasured, sayOfFigures } from './how-measured.ts';
export { costOfClean, type CleanCost } from './clean-cost.ts';
export { MOST_FIREFLIES, packFireflies, packTiles, tilesAcross, unpackFireflies, unpackTiles, type KeptTiles } from './kept-tiles.ts';
export {
  aroundTiles,
  figuresIn,
  sayPlace,
  tilesIn,
  touchingTiles,
  worstRegions,
  type NoisyRegion,
  type Rectangle,
  type RegionFigures,
} from './tile-regions.ts';
