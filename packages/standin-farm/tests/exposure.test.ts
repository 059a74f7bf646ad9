import { describe, expect, it } from 'vitest';
import { demoShots, renderFrame, type FrameSettings } from '../src/index.ts';

const [width, height] = [96, 54];
const settings: FrameSettings = { view: 'texture', time: 0.2, step: 1 / 40, width, height, samples: 64, seed: 3, meanFeatures: true };
const sharp = renderFrame(settings);

/** How much albedo changes from a pixel to the next, as a mean square, over pixels whose depth, or motion, lies between two bounds. */
function sharpness({ albedo }: Pick<typeof sharp, 'albedo'>, of: (pixel: number) => number, [least, most]: readonly [number, number]): number {
  let [sum, pixels] = [0, 0];
  for (let pixel = 1; pixel < width * height; pixel++) {
    if (pixel % width === 0 || of(pixel) < least || of(pixel) > most) continue;
    sum += (albedo[pixel * 3] - albedo[pixel * 3 - 3]) ** 2;
    pixels++;
  }
  expect(pixels).toBeGreaterThan(100);
  return sum / pixels;
}
const depth = (pixel: number) => sharp.depth[pixel];

describe('a lens', () => {
  const depths = Array.from(sharp.depth.filter((value) => value < 1e9)).sort((a, b) => a - b);
  const [near, far] = [depths[Math.floor(depths.length / 10)], depths[Math.floor(depths.length * 0.8)]];
  const open = (focus: number) => renderFrame({ ...settings, lens: { radius: 0.2, focus } });

  it('leaves sharp what is in focus, and blurs what is nearer or farther', () => {
    const bounds = { near: [0, near], far: [far, 1e9] } as const;
    const [onNear, onFar] = [open(near * 0.9), open(far * 1.1)];
    const left = (frame: typeof sharp, which: 'near' | 'far') => sharpness(frame, depth, bounds[which]) / sharpness(sharp, depth, bounds[which]);
    expect(left(onNear, 'near')).toBeGreaterThan(0.85);
    expect(left(onNear, 'far')).toBeLessThan(0.6);
    expect(left(onFar, 'far')).toBeGreaterThan(0.85);
    expect(left(onFar, 'near')).toBeLessThan(0.6);
  });

  it('that is hardly open changes nothing that can be seen', () => {
    const pinhole = renderFrame({ ...settings, lens: { radius: 1e-6, focus: 3 } });
    expect(sharpness(pinhole, depth, [0, 1e9]) / sharpness(sharp, depth, [0, 1e9])).toBeCloseTo(1, 1);
  });
});

describe('a shutter', () => {
  it('blurs what moves, and leaves what stands', () => {
    const { view } = demoShots.find((shot) => shot.name === 'orr_030')!;
    const turning = { ...settings, view: { ...view, orreryTurns: 0.5, cameraTurns: 0 } };
    const [shut, open] = [renderFrame(turning), renderFrame({ ...turning, shutter: 1 })];
    const speed = (pixel: number) => Math.hypot(shut.motion[pixel * 2], shut.motion[pixel * 2 + 1]);
    const left = (bounds: readonly [number, number]) => sharpness(open, speed, bounds) / sharpness(shut, speed, bounds);
    expect(left([0, 0.01])).toBeGreaterThan(0.9);
    expect(left([1, Infinity])).toBeLessThan(0.7);
  });

  it('sees the very frame where it is open for no time', () => {
    const still = { ...settings, step: 0 };
    expect(renderFrame({ ...still, shutter: 1 }).beauty).toEqual(renderFrame(still).beauty);
    expect(renderFrame({ ...settings, shutter: 0 }).beauty).toEqual(sharp.beauty);
  });

  it('and a lens leave vectors and depth those of the middle of the frame', () => {
    const both = renderFrame({ ...settings, shutter: 1, lens: { radius: 0.2, focus: 3 } });
    expect(both.depth).toEqual(sharp.depth);
    expect(both.motion).toEqual(sharp.motion);
  });
});
