export { measureGradients } from './gradients.ts';
export { luminanceOf, type Luminance } from './luminance.ts';
export { pairDifference, PairError, TILE } from './pair-noise.ts';
export { readRenderNotes, type RenderNotes } from './render-notes.ts';
export { notesOf, type NoteKind } from './writer-notes.ts';
export { measureTestRenders, type MeasuredTests, type Render, type Seeds } from './test-renders.ts';
export * from './pixel-facts/index.ts';
