import { mkdirSync, mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import os from 'node:os';
import path from 'node:path';
import { assayedRoles, demoShots, encodePasses, renderFrame, type PassFile, type PassName, type RenderedFrame } from '@mint-tally/standin-farm';
import { afterAll, beforeAll } from 'vitest';
import { runAssay } from '../../packages/engine/src/assaying/command.ts';

export const [WIDTH, HEIGHT, FRAMES] = [96, 64, 6];
/** Passes that every finding of an assay can be made of. */
export const PASSES: readonly PassName[] = [
  ...(['beauty', 'half1', 'half2', 'diffuse', 'specular', 'transmission', 'emission'] as const),
  ...(['albedo', 'normal', 'depth', 'motion', 'glass', 'brass'] as const),
];
export const ROLES: Partial<Record<PassName, string>> = { ...assayedRoles, half1: 'half', half2: 'half' };
export const view = { ...demoShots.find(({ name }) => name === 'orr_030')!.view, cameraTurns: 0.15 };

/** What the command prints of a frame, and of all of it. */
export interface Row {
  pass: string;
  frame: number;
  noise: number | null;
  relativeNoise: number | null;
  temporalNoise: number | null;
  fireflies: number;
  by: string;
  meanLuminance: number | null;
  tiles: (number | null)[];
}
export interface Printed {
  frames: Row[];
  findings: { code: string; severity: string; pass: string; frames: string; message: string }[];
  vectors: { convention: object; residual: number | null } | null;
}

/** Everything is below this. */
export let top = '';
/** A view of the orrery that turns slowly, with halves. */
export let rendered: readonly RenderedFrame[] = [];

/** Renders the frames before the tests of a file, and clears everything away behind them. */
export function beginAssaying(): void {
  beforeAll(() => {
    top = mkdtempSync(path.join(os.tmpdir(), 'mint-assay-'));
    rendered = Array.from({ length: FRAMES }, (_, i) =>
      renderFrame({ view, time: 0.2 + i / 120, step: 1 / 120, width: WIDTH, height: HEIGHT, samples: 16, seed: 10 + i, halves: true }),
    );
  });
  afterAll(() => rmSync(top, { recursive: true, force: true }));
}

export interface ShotToAssay {
  /** Those of the orrery where nothing is said. */
  readonly frames?: readonly RenderedFrame[];
  /** Each frame changed as wanted. */
  readonly change?: (frame: RenderedFrame, number: number) => RenderedFrame;
  /** What else is told of how a pass is written. */
  readonly written?: (pass: PassName, frame: RenderedFrame, number: number) => Partial<Pick<PassFile, 'alpha' | 'dataWindow'>>;
  /** What the brief says besides. */
  readonly brief?: object;
}

/** Writes a shot into a folder of its own, and measures it by the command. */
export async function assay(
  passes: readonly PassName[],
  { frames = rendered, change = (frame) => frame, written = () => ({}), brief = {} }: ShotToAssay = {},
): Promise<{ status: number; printed: Printed; error: string }> {
  const folder = mkdtempSync(path.join(top, 'shot-'));
  frames.forEach((frame, i) => {
    const number = 1001 + i;
    const changed = change(frame, number);
    for (const pass of passes) {
      mkdirSync(path.join(folder, pass), { recursive: true });
      const file: PassFile = { pass, path: '', format: 'exr', compression: 'zip', type: 'float', ...written(pass, changed, number) };
      writeFileSync(path.join(folder, pass, `${pass}.${number}.exr`), encodePasses(changed, [file], { host: 'reef', samples: 16, frame: number }));
    }
  });
  const file = path.join(folder, 'brief.json');
  const order = passes.map((name) => ({ name, role: ROLES[name], pattern: `${name}/${name}.####.exr` }));
  writeFileSync(file, JSON.stringify({ shot: 'orr_010', range: `1001-${1000 + frames.length}`, fps: '24', passes: order, ...brief }));
  const { status, output, error } = await runAssay([folder, '--brief', file, '--json'], () => undefined);
  return { status, printed: output === '' ? { frames: [], findings: [], vectors: null } : (JSON.parse(output) as Printed), error };
}

/** What was found, in short. */
export const codesOf = ({ findings }: Printed): string[] => findings.map(({ code, pass, frames }) => `${code} ${pass} ${frames}`);

/** What is known of the noise: half the difference of the halves, over tiles. */
export function trueNoise({ half1, half2 }: RenderedFrame): number {
  const difference = (i: number) => [0.2126, 0.7152, 0.0722].reduce((sum, weight, c) => sum + (weight * (half1[i * 4 + c]! - half2[i * 4 + c]!)) / 2, 0);
  let [sum, tiles] = [0, 0];
  for (let top = 0; top < HEIGHT; top += 16)
    for (let left = 0; left < WIDTH; left += 16, tiles++)
      for (let y = top; y < top + 16; y++) for (let x = left; x < left + 16; x++) sum += difference(y * WIDTH + x) ** 2 / 256;
  return Math.sqrt(sum / tiles);
}
