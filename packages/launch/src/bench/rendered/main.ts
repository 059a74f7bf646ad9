import { mkdirSync, writeFileSync } from 'node:fs';
import path from 'node:path';
import { encodePasses, renderFrame } from '@mint-tally/standin-farm';
import { FIRST, PASSES, renderedFile, SIZE } from './shot.ts';

/** `bench-frames.js FOLDER PLACE …` renders frames of a textured scene that turns, with all that noise is measured with. */
const [folder, ...places] = process.argv.slice(2);
/** A frame of few samples packs like one of more: every pixel has noise, of features at the rims of things. */
const SAMPLES = 4;
const STEP = 1 / 400;

for (const place of places.map(Number)) {
  const settings = { view: 'texture', time: 0.2 + place * STEP, step: STEP, ...SIZE, meanFeatures: true } as const;
  const frame = renderFrame({ ...settings, samples: SAMPLES, seed: 500 + place });
  for (const pass of PASSES) {
    const file = renderedFile(folder!, pass, place);
    mkdirSync(path.dirname(file), { recursive: true });
    const type = pass === 'depth' || pass === 'motion' ? 'float' : 'half';
    const notes = { host: 'reef', samples: SAMPLES, frame: FIRST + place };
    writeFileSync(file, encodePasses(frame, [{ pass, path: '', format: 'exr', compression: 'zip', type }], notes));
  }
}
