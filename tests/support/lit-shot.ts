import { mkdirSync, writeFileSync } from 'node:fs';
import path from 'node:path';
import { encodePasses, renderFrame, type RenderedFrame } from '@mint-tally/standin-farm';

/** A small picture, whose camera goes round slowly. */
export const LIT = { width: 112, height: 64, step: 1 / 400 } as const;
export const LIT_PASSES = ['beauty', 'albedo', 'normal', 'depth', 'motion'] as const;
/** Lights that sum to the beauty. */
export const LIT_LIGHTS = ['diffuse', 'specular', 'transmission', 'emission'] as const;
type LitPass = (typeof LIT_PASSES | typeof LIT_LIGHTS)[number];

const roleOf = (name: LitPass) => (LIT_LIGHTS.some((light) => light === name) ? 'light' : name);

/** A frame of a study of the stand-in farm. @param i its place, from 0 */
export const renderLit = (i: number, samples: number, seed: number, view: 'plain' | 'mirrors' = 'plain') =>
  renderFrame({ view, time: 0.2 + i * LIT.step, step: LIT.step, width: LIT.width, height: LIT.height, samples, seed, meanFeatures: true });

/** Writes frames from 1001 on as a shot with a brief. @returns the folder */
export function writeLitShot(folder: string, frames: readonly RenderedFrame[], passes: readonly LitPass[] = LIT_PASSES): string {
  frames.forEach((frame, i) => {
    for (const pass of passes) {
      mkdirSync(path.join(folder, pass), { recursive: true });
      const file = { pass, path: '', format: 'exr', compression: 'zip', type: pass === 'beauty' || roleOf(pass) === 'light' ? 'half' : 'float' } as const;
      writeFileSync(path.join(folder, pass, `${pass}.${1001 + i}.exr`), encodePasses(frame, [file], { host: 'reef', samples: 16, frame: 1001 + i }));
    }
  });
  writeFileSync(path.join(folder, 'brief.json'), JSON.stringify(litBrief(frames.length, passes)));
  return folder;
}

/** What is ordered of such a shot. */
export function litBrief(frames: number, passes: readonly LitPass[] = LIT_PASSES) {
  return {
    shot: 'orr_010',
    range: `1001-${1000 + frames}`,
    fps: '24',
    passes: passes.map((name) => ({ name, role: roleOf(name), pattern: `${name}/${name}.####.exr` })),
  };
}
