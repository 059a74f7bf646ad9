import { mkdirSync, readFileSync, writeFileSync } from 'node:fs';
import path from 'node:path';
import { encodeExr, floatToHalf, memorySource, parseBrief, recogniseFormat, type Brief } from '@mint-tally/core';
import { codecTools } from '@mint-tally/engine';

const [WIDTH, HEIGHT] = [1920, 1080];
/** Pixels that the camera goes along from frame to frame. */
const SPEED = 3;
/** Their numbers. */
const framesOf = (count: number) => Array.from({ length: count }, (_, i) => 1001 + i);

/** A number from -1 to 1 for a pixel of a frame, always the same. */
function noise(x: number, y: number, frame: number, channel: number): number {
  let hash = Math.imul(x, 0x9e3779b1) ^ Math.imul(y, 0x85ebca77) ^ Math.imul(frame, 0xc2b2ae3d) ^ Math.imul(channel + 1, 0x27d4eb2f);
  hash = Math.imul(hash ^ (hash >>> 15), 0x2c1b3c6d);
  return ((hash ^ (hash >>> 13)) >>> 0) / 2 ** 31 - 1;
}

const albedo = (x: number, y: number) => 0.3 + 0.2 * (((x >> 3) + (y >> 4)) % 3);
const slope = (x: number, y: number) => Math.sin(x / 90) * Math.cos(y / 70);

/** What each pass holds at a pixel, channel by channel. */
const PASSES: Record<string, { channels: string[]; type: 'half' | 'float'; at: (x: number, y: number, frame: number, channel: number) => number }> = {
  beauty: { channels: ['R', 'G', 'B'], type: 'half', at: (x, y, frame, c) => albedo(x, y) * (0.6 + 0.3 * slope(x, y)) + 0.05 * noise(x, y, frame, c) },
  albedo: { channels: ['R', 'G', 'B'], type: 'half', at: albedo },
  normal: {
    channels: ['X', 'Y', 'Z'],
    type: 'half',
    at: (x, y, _frame, c) => (c === 2 ? Math.sqrt(1 - 0.2 * slope(x, y) ** 2) : (c === 0 ? 0.4 : 0.2) * slope(x, y)),
  },
  depth: { channels: ['Z'], type: 'float', at: (x, y) => 5 + slope(x, y) },
  motion: { channels: ['X', 'Y'], type: 'float', at: (_x, _y, _frame, c) => (c === 0 ? SPEED : 0) },
};

/** Some frames of a shot with all that noise is measured with. */
export function makeAssayShot(top: string, count: number): { folder: string; brief: Brief } {
  const folder = path.join(top, `assay-${count}`);
  const frames = framesOf(count);
  const window = [0, 0, WIDTH - 1, HEIGHT - 1] as const;
  for (const [pass, { channels, type, at }] of Object.entries(PASSES)) {
    mkdirSync(path.join(folder, pass), { recursive: true });
    for (const frame of frames) {
      const planes = channels.map((name, c) => {
        const value = (i: number) => at((i % WIDTH) + (frame - 1000) * SPEED, Math.floor(i / WIDTH), frame, c);
        const data =
          type === 'half'
            ? Uint16Array.from({ length: WIDTH * HEIGHT }, (_, i) => floatToHalf(value(i)))
            : Float32Array.from({ length: WIDTH * HEIGHT }, (_, i) => value(i));
        return { name, type, data };
      });
      writeFileSync(
        path.join(folder, pass, `${pass}.${frame}.exr`),
        encodeExr({ dataWindow: window, displayWindow: window, pixelAspect: 1, compression: 'zip', channels: planes, metadata: {} }, codecTools),
      );
    }
  }
  const passes = Object.keys(PASSES).map((name) => ({ name, role: name, pattern: `${name}/${name}.####.exr` }));
  return { folder, brief: parseBrief({ shot: 'bench', range: `${frames[0]}-${frames.at(-1)}`, passes }) };
}

/** Decodes all of its files, one after the other. */
export function decodeAssayShot(folder: string, count: number): void {
  for (const pass of Object.keys(PASSES)) {
    for (const frame of framesOf(count)) {
      const source = memorySource(readFileSync(path.join(folder, pass, `${pass}.${frame}.exr`)));
      recogniseFormat(source, 'frame.exr').open(source).decode(codecTools);
    }
  }
}
