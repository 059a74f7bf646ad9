import {
  appendFileSync,
  copyFileSync,
  openSync,
  closeSync,
  mkdirSync,
  readFileSync,
  renameSync,
  rmSync,
  statSync,
  truncateSync,
  writeFileSync,
  writeSync,
} from 'node:fs';
import path from 'node:path';
import type { PassFile } from '../nodes/frame-files.ts';
import type { DemoShot } from './shots.ts';

/** How a frame is rendered where it is not as ordered: what a wrong setting on a node does. */
export interface Deviation {
  /** Shares the resolution by this. */
  readonly shrink?: number;
  readonly file?: Partial<PassFile>;
}

/** Samples of a frame over those that were ordered: a start that had not warmed up, a machine with another setting. */
export function sampleShareOf(shot: DemoShot, frame: number): number {
  if (shot.name !== 'orr_050') return 1;
  return { 1001: 1 / 4, 1002: 1 / 2, 1012: 1 / 2, 1013: 1 / 2 }[frame] ?? 1;
}

/** Passes that show the frame before: a machine that counts from another number. */
export function isLate(shot: DemoShot, pass: string, frame: number): boolean {
  return shot.name === 'orr_050' && pass === 'albedo' && frame >= 1012;
}

/** The frames that the farm does not render, as a node that stopped would leave them. */
export function isSkipped(shot: DemoShot, frame: number): boolean {
  return shot.name === 'orr_030' && frame >= 1013 && frame <= 1016;
}

/** The wrong settings of the demo, by shot, pass and frame. */
export function deviationOf(shot: DemoShot, pass: string, frame: number): Deviation {
  const at = `${shot.name} ${pass} ${frame}`;
  if (/^orr_030 beauty 10(29|30|31)$/.test(at)) return { shrink: 2 };
  if (/^orr_030 depth 10(17|18)$/.test(at)) return { file: { compression: 'rle' } };
  if (at === 'orr_020 beauty 1018') return { file: { channels: ['R', 'G', 'B'] } };
  if (at === 'orr_040 beauty 1008') return { file: { type: 'float' } };
  if (at === 'orr_030 beauty 1006') return { file: { damage: 'bucket' } };
  if (at === 'orr_040 beauty 1004') return { file: { damage: 'nan' } };
  if (at === 'orr_020 normal 1005') return { file: { damage: 'blank' } };
  if (at === 'orr_040 depth 1012') return { file: { channels: ['depth.V'] } };
  // The lamp sinks in all that it lights; later one light is too weak, then a normal is, then paths find the flame by chance.
  if (/^orr_050 (beauty|diffuse|specular|transmission|emission) 1006$/.test(at)) return { file: { damage: 'dim' } };
  if (/^orr_050 specular 10(09|10)$/.test(at)) return { file: { damage: 'dim' } };
  if (/^orr_050 normal 10(08|09)$/.test(at)) return { file: { damage: 'dim' } };
  if (at === 'orr_050 beauty 1015') return { file: { damage: 'sparks' } };
  return {};
}

/** Does to the rendered files what nights on a farm do: cuts, flips, renames, leaves things lying about. */
export function plantFaults(folder: string): void {
  const at = (relative: string) => path.join(folder, relative);
  const move = (from: string, to: string) => renameSync(at(from), at(to));
  const copy = (from: string, to: string) => {
    mkdirSync(path.dirname(at(to)), { recursive: true });
    copyFileSync(at(from), at(to));
  };
  const png = (pass: string, frame: number) => `orr_020/${pass}/orr_020_v002_${pass}.${frame}.png`;
  move(png('beauty', 1007), 'orr_020/beauty/orr_020_v001_beauty.1007.png');
  move(png('depth', 1011), 'orr_020/depth/orr_020_v002_depth.01011.png');
  move(png('normal', 1015), 'orr_020/normal/orr_020_v002_Normal_1015.png');
  appendFileSync(at(png('beauty', 1020)), Buffer.alloc(512, 0x2e));
  copy(png('beauty', 1022), 'orr_020/beauty/orr_020_v002_beauty_1022.png');
  writeFileSync(at('orr_020/lamp notes \u2013 dusk.txt'), 'Keep the amber warm.\n');

  const turn = (pass: string, frame: number) => `orr_030/${pass}/orr_030_${pass}.${frame}.exr`;
  cutShort(at(turn('beauty', 1022)), 0.6);
  flipByte(at(turn('beauty', 1026)), 0.5);
  truncateSync(at(turn('depth', 1008)), 0);
  zeroOut(at(turn('normal', 1020)));
  writeFileSync(at(turn('beauty', 1034)), readFileSync(at(png('beauty', 1001))));
  copy(turn('beauty', 1036), turn('beauty', 1037));
  copy(turn('normal', 1009), turn('normal', 1010));
  writeFileSync(at('orr_030/render.log'), 'bowline stopped after 1012; reef began at 1017.\n');

  const arm = (frame: number) => `orr_040/beauty/orr_040_beauty.${frame}.exr`;
  for (const frame of [1, 2, 3]) copy(arm(1000 + frame), `orr_040/look_test/orr_040_look.000${frame}.exr`);
  move(arm(1018), `${arm(1018)}.tmp`);
  cutShort(at(`${arm(1018)}.tmp`), 0.3);
  rmSync(at('orr_040/depth/orr_040_depth.1018.exr'));
}

function cutShort(file: string, share: number): void {
  truncateSync(file, Math.floor(statSync(file).size * share));
}

function flipByte(file: string, share: number): void {
  const bytes = readFileSync(file);
  const middle = Math.floor(bytes.length * share);
  for (let i = 0; i < 8; i++) bytes[middle + i] ^= 0xff;
  writeFileSync(file, bytes);
}

function zeroOut(file: string): void {
  const { size } = statSync(file);
  const descriptor = openSync(file, 'r+');
  writeSync(descriptor, Buffer.alloc(size), 0, size, 0);
  closeSync(descriptor);
}
