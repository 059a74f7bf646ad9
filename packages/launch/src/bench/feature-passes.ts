import { mkdirSync, writeFileSync } from 'node:fs';
import path from 'node:path';
import { encodePasses, type RenderedFrame } from '@mint-tally/standin-farm';

/** A colour pass and all that its noise is measured and taken out with. */
export const FEATURE_PASSES = ['beauty', 'albedo', 'normal', 'depth', 'motion'] as const;

/** Lights that sum to the colour pass. */
export const LIGHT_PASSES = ['diffuse', 'specular', 'transmission', 'emission'] as const;

type StudyPass = (typeof FEATURE_PASSES | typeof LIGHT_PASSES)[number];

/** The first frame of what the bench renders. */
export const FIRST = 1001;

/** The file of the frame at a place of a shot. */
export const passFile = (folder: string, pass: string, place: number) => path.join(folder, pass, `${pass}.${FIRST + place}.exr`);

/** Writes a frame's passes: vectors and depths as 32-bit floats, the others as halves, or all as floats where they stand for the truth. */
export function writePasses(
  folder: string,
  place: number,
  frame: RenderedFrame,
  samples: number,
  isTruth = false,
  passes: readonly StudyPass[] = FEATURE_PASSES,
): void {
  for (const pass of passes) {
    const file = passFile(folder, pass, place);
    mkdirSync(path.dirname(file), { recursive: true });
    const type = isTruth || pass === 'depth' || pass === 'motion' ? 'float' : 'half';
    writeFileSync(file, encodePasses(frame, [{ pass, path: '', format: 'exr', compression: 'zip', type }], { host: 'reef', samples, frame: FIRST + place }));
  }
}

/** The brief of so many frames of these passes, as its file has it. */
export const featureBrief = (frames: number, lights: readonly StudyPass[] = []) => ({
  shot: 'orr_010',
  range: `${FIRST}-${FIRST + frames - 1}`,
  passes: [...FEATURE_PASSES, ...lights].map((name) => ({ name, role: lights.includes(name) ? 'light' : name, pattern: `${name}/${name}.####.exr` })),
});
