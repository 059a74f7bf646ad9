import { mkdirSync, writeFileSync } from 'node:fs';
import path from 'node:path';
import type { PixelWindow } from '@mint-tally/core';
import { assayedRoles, demoShots, encodePasses, renderFrame, type FrameSettings, type PassFile, type RenderedFrame } from '@mint-tally/standin-farm';
import { filtered } from './pixel-filter.ts';

const [FRAMES, FIRST] = [12, 1001];
/** What the views are rendered in: small pictures, in which little tells what a pass shows, and larger ones. */
export const faultySizes = { small: { width: 96, height: 64 }, middle: { width: 240, height: 160 } } as const;
export type FaultySize = keyof typeof faultySizes;
const SAMPLES = 16;
const STEP = 1 / 120;
const LIGHTS = ['diffuse', 'specular', 'transmission', 'emission'] as const;
type Pass = keyof typeof assayedRoles;
const PASSES = Object.keys(assayedRoles) as Pass[];

/** Views of the orrery that the faults are made in. */
export const faultyViews = ['orr_010', 'orr_030', 'orr_040'] as const;
export type FaultyView = (typeof faultyViews)[number];

/** How a frame is rendered again: by other samples, at another moment, counted in frames from the first, or with vectors from another frame before. */
export interface Again extends Partial<Pick<FrameSettings, 'heldSeeds' | 'meanFeatures' | 'scattered' | 'lens' | 'shutter'>> {
  readonly samples?: number;
  readonly moment?: number;
  readonly step?: number;
}

/** A fault that is made in a shot. */
export interface Fault {
  /** The finding that tells of it, or what else is said of the noise; null where the shot is sound. */
  readonly code: string | null;
  readonly name: string;
  /** @param again renders the frame at a place of the shot */
  readonly change: (shot: readonly RenderedFrame[], again: (i: number, how: Again) => RenderedFrame) => readonly RenderedFrame[];
  /** What else is told of how a pass is written. @param i place of the frame in the shot */
  readonly written?: (pass: Pass, frame: RenderedFrame, i: number) => Partial<Pick<PassFile, 'alpha' | 'dataWindow' | 'damage' | 'format'>>;
  /** What its brief orders otherwise. */
  readonly order?: object;
}

/** A frame whose picture, lights included, is made brighter by a share that depends on the pixel. */
function lit(frame: RenderedFrame, times: (pixel: number) => number): RenderedFrame {
  const scaled = (values: Float32Array, stride: number) => values.map((value, i) => (i % stride === 3 ? value : value * times(Math.floor(i / stride))));
  return { ...frame, beauty: scaled(frame.beauty, 4), ...Object.fromEntries(LIGHTS.map((name) => [name, scaled(frame[name], 3)])) };
}

/** From 0 to 1, in no order. */
const chance = (i: number) => (Math.abs(Math.sin(i * 78.233)) * 43758.5453) % 1;

const isLight = (pass: Pass) => assayedRoles[pass] === 'light';
/** The alpha of the beauty, but for what is left out of it. */
const alphaOf = ({ beauty }: RenderedFrame, without: (pixel: number) => boolean = () => false) =>
  Float32Array.from({ length: beauty.length / 4 }, (_, i) => (without(i) ? 0 : beauty[i * 4 + 3]!));

/** Changes one frame, or all of them. */
const each = (change: (frame: RenderedFrame, i: number, shot: readonly RenderedFrame[]) => RenderedFrame) => (shot: readonly RenderedFrame[]) =>
  shot.map((frame, i) => change(frame, i, shot));
const only = (at: number, change: (frame: RenderedFrame) => RenderedFrame) => each((frame, i) => (i === at ? change(frame) : frame));

/** A shot that is sampled otherwise. */
const sampled =
  (how: Again): Fault['change'] =>
  (shot, again) =>
    shot.map((_, i) => again(i, how));
/** In focus is what stands in the middle of the orrery. */
const LENS = { radius: 0.12, focus: 4 };

/** Moments of a shot that goes there and back, and begins anew. */
const LOOP = Array.from({ length: FRAMES }, (_, i) => Math.min(i, FRAMES - i));

/** A shot that goes through other moments. */
const along =
  (moments: readonly number[]): Fault['change'] =>
  (_, again) =>
    moments.map((moment, i) => again(i, { moment, step: i === 0 ? 1 : moment - moments[i - 1]! }));

/** What is made in pictures of a size. */
export function faultsOf(size: FaultySize): readonly Fault[] {
  const { width, height } = faultySizes[size];
  const inPart = (pixel: number) => pixel % width < (width * 2) / 3 && pixel < Math.floor((height * 3) / 4) * width;
  /** All but a rim of eight pixels. */
  const cut: PixelWindow = [8, 8, width - 9, height - 9];
  const tenth = Math.floor((width * height) / 10) + 3;
  return [
    { code: null, name: 'none', change: (shot) => shot },
    {
      code: null,
      name: 'lights with the alpha of the beauty, and one that ends where nothing is',
      change: (shot) => shot,
      written: (pass, frame) => ({ ...(isLight(pass) && { alpha: alphaOf(frame) }), ...(pass === 'emission' && { dataWindow: cut }) }),
    },
    ...[4, 16, 64].map((samples) => ({
      code: null,
      name: `albedo and normals are means over ${samples} samples, which fall anywhere in their pixel`,
      change: sampled({ samples, meanFeatures: true, scattered: true }),
    })),
    { code: null, name: 'a lens that blurs what is out of focus, in albedo and normals as well', change: sampled({ meanFeatures: true, lens: LENS }) },
    { code: null, name: 'a shutter that is open for half a frame, for albedo and normals as well', change: sampled({ meanFeatures: true, shutter: 0.5 }) },
    { code: null, name: 'a loop, there and back', change: along(LOOP), order: { loop: true } },
    { code: 'heldSeeds', name: 'each frame draws the same random numbers', change: sampled({ heldSeeds: true }) },
    { code: 'wideFilter', name: 'a pixel filter two pixels wide', change: each((frame) => filtered(frame, 0.5, ['beauty', ...LIGHTS])) },
    { code: null, name: 'less noise than the brief allows', change: (shot) => shot, order: { sampling: { noise: 10 } } },
    { code: 'noisy', name: 'more noise than the brief allows', change: (shot) => shot, order: { sampling: { noise: 0.001 } } },
    {
      code: 'noise-shift',
      name: 'three frames of a quarter of the samples',
      change: (shot, again) => shot.map((frame, i) => (i > 4 && i < 8 ? again(i, { samples: SAMPLES / 4 }) : frame)),
    },
    {
      code: 'unsettled-start',
      name: 'first frames of 2, 4 and 8 samples',
      change: (shot, again) => shot.map((frame, i) => (i < 3 ? again(i, { samples: 2 << i }) : frame)),
    },
    { code: 'flicker', name: 'a frame a sixth darker', change: only(6, (frame) => lit(frame, () => 5 / 6)) },
    { code: 'flicker', name: 'every other frame 8 % brighter', change: each((frame, i) => (i % 2 === 0 ? frame : lit(frame, () => 1.08))) },
    {
      code: 'flicker',
      name: 'a part of the picture that pumps by up to 25 %',
      change: each((frame, i) => lit(frame, (pixel) => (inPart(pixel) ? 1 + 0.25 * chance(i + 1) : 1))),
    },
    { code: 'fireflies', name: 'ten sparks in a frame', change: only(5, (frame) => lit(frame, (pixel) => (pixel % tenth === 7 ? 60 : 1))) },
    { code: 'frozen-frame', name: 'a frame twice', change: each((frame, i, shot) => (i === 6 ? shot[5]! : frame)) },
    { code: 'frozen-frame', name: 'each fourth frame twice', change: each((_, i, shot) => shot[i - Math.ceil(i / 5)]!) },
    { code: 'copied-pass', name: 'a light that holds the picture of another', change: each((frame) => ({ ...frame, transmission: frame.specular })) },
    { code: 'jump', name: 'another moment from one frame on', change: (shot, again) => shot.map((frame, i) => (i < 7 ? frame : again(i, { moment: i + 40 }))) },
    { code: 'missing-region', name: 'a bucket that was never written', change: (shot) => shot, written: (_, __, i) => (i === 8 ? { damage: 'bucket' } : {}) },
    {
      code: 'loop-repeat',
      name: 'a loop whose last frame is its first',
      change: along([...LOOP.toSpliced(7, 1), 0]),
      order: { loop: true },
    },
    {
      code: 'loop-jump',
      name: 'a loop that does not close',
      change: along(LOOP.map((_, i) => i * 4)),
      order: { loop: true },
    },
    {
      code: 'banding',
      name: 'a soft gradient in 8 bits',
      change: each((frame) => ({ ...frame, beauty: frame.beauty.map((value, i) => (i % 4 === 3 ? value : 0.2 + ((i >> 2) % width) / 3840)) })),
      written: () => ({ format: 'png' }),
      order: { passes: [{ name: 'beauty', role: 'beauty', pattern: 'beauty/beauty.####.png' }] },
    },
    {
      code: 'sum-mismatch',
      name: 'a light half as strong in one frame',
      change: only(4, (frame) => ({ ...frame, specular: frame.specular.map((value) => value / 2) })),
    },
    {
      code: 'pass-offset',
      name: 'normals a frame behind throughout',
      change: each((frame, i, shot) => ({ ...frame, normal: shot[Math.max(0, i - 1)]!.normal })),
    },
    {
      code: 'pass-offset',
      name: 'depth a frame ahead throughout',
      change: each((frame, i, shot) => ({ ...frame, depth: shot[Math.min(FRAMES - 1, i + 1)]!.depth })),
    },
    {
      code: 'depth-implausible',
      name: 'a fiftieth of a depth is 0',
      change: only(3, (frame) => ({ ...frame, depth: frame.depth.map((value, i) => (i % 50 === 0 ? 0 : value)) })),
    },
    {
      code: 'depth-implausible',
      name: 'depth counts the other way round',
      change: each((frame) => ({ ...frame, depth: frame.depth.map((value) => (value > 1e9 ? value : 20 - value)) })),
    },
    {
      code: 'depth-implausible',
      name: 'a depth that says nothing is there in a part of a frame',
      change: only(3, (frame) => ({ ...frame, depth: frame.depth.map((value, i) => (inPart(i) ? 1e10 : value)) })),
    },
    {
      code: 'depth-implausible',
      name: 'a depth in another unit in one frame',
      change: only(6, (frame) => ({ ...frame, depth: frame.depth.map((value) => value * 100) })),
    },
    { code: 'depth-implausible', name: 'a depth that is one distance', change: each((frame) => ({ ...frame, depth: frame.depth.map(() => 4) })) },
    {
      code: 'normal-implausible',
      name: 'normals of half their length',
      change: only(5, (frame) => ({ ...frame, normal: frame.normal.map((value) => value / 2) })),
    },
    { code: 'matte-mismatch', name: 'a matte up to 1.5', change: only(2, (frame) => ({ ...frame, glass: frame.glass.map((value) => value * 1.5) })) },
    {
      code: 'matte-mismatch',
      name: 'a matte that misses a part of the alpha',
      change: each((frame, at) => ({ ...frame, glass: frame.glass.map((_, i) => (at === 4 && i < (width * height) / 6 ? 0 : frame.beauty[i * 4 + 3]!)) })),
    },
    { code: 'id-implausible', name: 'ids between two numbers', change: only(3, (frame) => ({ ...frame, brass: frame.brass.map((value) => value + 0.5) })) },
    {
      code: 'vector-implausible',
      name: 'vectors that lead the other way in one frame',
      change: only(4, (frame) => ({ ...frame, motion: frame.motion.map((value) => -value) })),
    },
    {
      code: 'alpha-mismatch',
      name: 'the alpha of a light covers a part less in one frame',
      change: (shot) => shot,
      written: (pass, frame, i) => (pass === 'diffuse' ? { alpha: i === 6 ? alphaOf(frame, inPart) : alphaOf(frame) } : {}),
    },
    {
      code: 'alpha-mismatch',
      name: 'the alpha of a light covers a part less throughout',
      change: (shot) => shot,
      written: (pass, frame) => (pass === 'diffuse' ? { alpha: alphaOf(frame, inPart) } : {}),
    },
    {
      code: 'window-mismatch',
      name: 'normals without the rim that the beauty has',
      change: (shot) => shot,
      written: (pass) => (pass === 'normal' ? { dataWindow: cut } : {}),
    },
  ];
}

/** The brief of a shot with a fault. */
export const faultyBrief = ({ order }: Fault) => ({
  shot: 'orr_010',
  range: `${FIRST}-${FIRST + FRAMES - 1}`,
  passes: PASSES.map((name) => ({ name, role: assayedRoles[name], pattern: `${name}/${name}.####.exr` })),
  ...order,
});

/** Renders a view once, and gives a way to write it with a fault into a folder. */
export function renderFaulty(view: FaultyView, size: FaultySize): (fault: Fault, folder: string) => void {
  const shot = demoShots.find(({ name }) => name === view)!;
  const settings = { view: { ...shot.view, cameraTurns: 0.15 }, ...faultySizes[size] };
  const render = (i: number, { samples = SAMPLES, moment = i, step = 1, ...how }: Again) => {
    const frame = renderFrame({ ...settings, ...how, samples, step: step * STEP, time: 0.2 + moment * STEP, seed: how.heldSeeds ? 10 : 10 + i });
    // Whole numbers, as ids are.
    return { ...frame, brass: frame.brass.map(Math.round) };
  };
  const sound = Array.from({ length: FRAMES }, (_, i) => render(i, {}));
  return (fault, folder) => {
    const passes = faultyBrief(fault).passes.map(({ name }) => name);
    fault.change(sound, render).forEach((frame, i) => {
      for (const pass of passes) {
        const written: PassFile = { pass, path: '', format: 'exr', compression: 'zip', type: 'float', ...fault.written?.(pass, frame, i) };
        const file = path.join(folder, pass, `${pass}.${FIRST + i}.${written.format}`);
        mkdirSync(path.dirname(file), { recursive: true });
        writeFileSync(file, encodePasses(frame, [written], { host: 'reef', samples: SAMPLES, frame: FIRST + i }));
      }
    });
  };
}
