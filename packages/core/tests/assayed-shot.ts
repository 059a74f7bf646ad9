import { findAssayTroubles, parseBrief, workOutOrder, type AssayedFrame } from '../src/index.ts';

export const FRAMES = 48;
/** A little noise of the figures themselves, the same in every run. */
const jitter = (i: number) => 1 + 0.03 * Math.sin(i * 12.9898) * Math.cos(i * 4.1);

/** A shot of so many frames, each sound but for what is said otherwise of it. */
export function shot(noiseOf: (i: number) => number, more: (i: number) => Partial<AssayedFrame> = () => ({})): AssayedFrame[] {
  return Array.from({ length: FRAMES }, (_, i): AssayedFrame => ({
    pass: 'beauty',
    frame: 1001 + i,
    file: `beauty.${1001 + i}.exr`,
    noise: noiseOf(i) * jitter(i),
    relativeNoise: 0.1,
    temporalNoise: null,
    tiles: new Float64Array(0),
    by: 'features',
    meanLuminance: 0.2,
    luminanceError: 0.0002,
    fireflies: 3,
    fireflyPlaces: new Int32Array(0),
    sum: null,
    host: i % 2 === 0 ? 'reef' : 'clove',
    samples: 64,
    seconds: 90,
    bytes: 1_000_000,
    grid: { width: 64, height: 32, across: 4, down: 2 },
    covered: 1,
    banded: null,
    means: new Float64Array(8).fill(0.2),
    heldSeeds: false,
    wideFilter: false,
    joinedPixels: 1,
    ...more(i),
  }));
}

const order = (brief: object = {}) =>
  workOutOrder(
    parseBrief({ shot: 'orr_010', range: '1001-1048', passes: [{ name: 'beauty', role: 'beauty', pattern: 'beauty.####.exr' }], ...brief }, 'brief'),
  );
export const found = (frames: AssayedFrame[], brief: object = {}) => findAssayTroubles(order(brief), frames, []);
export const codes = (frames: AssayedFrame[], brief: object = {}) => found(frames, brief).map(({ code, frames: at }) => `${code} ${String(at)}`);
