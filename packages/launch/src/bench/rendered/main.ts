import { renderFrame } from '@mint-tally/standin-farm';
import { writePasses } from '../feature-passes.ts';
import { SIZE } from './shot.ts';

/** `bench-frames.js FOLDER PLACE …` renders frames of a textured scene that turns, with all that noise is measured with. */
const [folder, ...places] = process.argv.slice(2);
/** A frame of few samples packs like one of more: every pixel has noise, of features at the rims of things. */
const SAMPLES = 4;
const STEP = 1 / 400;

for (const place of places.map(Number)) {
  const settings = { view: 'texture', time: 0.2 + place * STEP, step: STEP, ...SIZE, meanFeatures: true } as const;
  writePasses(folder!, place, renderFrame({ ...settings, samples: SAMPLES, seed: 500 + place }), SAMPLES);
}
