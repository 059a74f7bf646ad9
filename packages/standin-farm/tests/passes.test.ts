import zlib from 'node:zlib';
import { halfToFloat, inspectFrameFile, memorySource, type CodecTools } from '@mint-tally/core';
import { describe, expect, it } from 'vitest';
import { demoShots, encodePasses, renderFrame } from '../src/index.ts';

const [width, height] = [64, 36];
const turning = demoShots.find((shot) => shot.name === 'orr_030')!;
const settings = { view: turning.view, time: 0.3, step: 1 / 36, width, height, samples: 4, seed: 3, occlusion: true };
const frame = renderFrame(settings);
const pixels = Array.from({ length: width * height }, (_, pixel) => pixel);
const LIGHTS = ['diffuse', 'specular', 'transmission', 'emission'] as const;

describe('the passes of a rendered frame', () => {
  it('has light passes that add up to the beauty, each with something in it', () => {
    for (const pixel of pixels) {
      for (let c = 0; c < 3; c++) {
        const sum = LIGHTS.reduce((total, name) => total + frame[name][pixel * 3 + c], 0);
        expect(Math.abs(sum - frame.beauty[pixel * 4 + c])).toBeLessThan(1e-5);
      }
    }
    for (const name of LIGHTS) expect(frame[name].some((value) => value > 0)).toBe(true);
  });

  it('has mattes and occlusion between none and all', () => {
    for (const name of ['glass', 'brass', 'occlusion'] as const) {
      expect(frame[name].every((value) => value >= 0 && value <= 1.000001)).toBe(true);
      expect(new Set(frame[name]).size).toBeGreaterThan(2);
    }
    expect(pixels.every((pixel) => frame.glass[pixel] + frame.brass[pixel] <= 1.000001)).toBe(true);
  });

  it('has motion vectors that find the point in the frame before', () => {
    // Depth has no noise: followed back by its motion, a point that is still seen has a depth there
    // that differs by no more than it moved.
    const before = renderFrame({ ...settings, time: settings.time - settings.step, samples: 1 });
    let [still, moved, fits] = [0, 0, 0];
    for (const pixel of pixels) {
      const [x, y] = [pixel % width, Math.floor(pixel / width)];
      const [mx, my] = [frame.motion[pixel * 2], frame.motion[pixel * 2 + 1]];
      if (frame.depth[pixel] > 1e9) continue;
      if (Math.hypot(mx, my) < 1e-3) {
        still++;
        continue;
      }
      const [bx, by] = [Math.round(x + mx), Math.round(y + my)];
      if (bx < 0 || by < 0 || bx >= width || by >= height) continue;
      moved++;
      if (frame.glass[pixel] !== 0 && before.glass[by * width + bx] !== 0) fits++;
      else if (Math.abs(before.depth[by * width + bx] - frame.depth[pixel]) < 0.3) fits++;
    }
    expect(still).toBeGreaterThan(width * height * 0.3);
    expect(moved).toBeGreaterThan(40);
    expect(fits / moved).toBeGreaterThan(0.85);
  });

  it('has no motion where nothing moves', () => {
    const standing = renderFrame({ ...settings, view: { ...settings.view, orreryTurns: 0, cameraTurns: 0 }, samples: 1 });
    expect(Math.max(...standing.motion.map(Math.abs))).toBeLessThan(1e-4);
  });

  it('has all of the picture in motion when the camera turns', () => {
    const turned = renderFrame({ ...settings, view: { ...settings.view, orreryTurns: 0, cameraTurns: 1 }, samples: 1 });
    const moving = pixels.filter((pixel) => Math.hypot(turned.motion[pixel * 2], turned.motion[pixel * 2 + 1]) > 0.05);
    expect(moving.length).toBeGreaterThan(pixels.length * 0.8);
  });

  describe('are seen through the middle of pixels', () => {
    type Settings = Parameters<typeof renderFrame>[0];
    /** The line around which the glass lies, over a few renders. */
    const middleOf = (change: Partial<Settings>): number => {
      let [sum, lines] = [0, 0];
      for (const seed of [1, 2, 3, 4, 5, 6]) {
        renderFrame({ ...settings, occlusion: false, seed, ...change }).glass.forEach((share, pixel) => {
          sum += share;
          lines += share * Math.floor(pixel / width);
        });
      }
      return lines / sum;
    };
    const expected = middleOf({ samples: 64 });
    const { segments } = renderFrame({ ...settings, occlusion: false, samples: 16 });

    it.each<[string, Partial<Settings>]>([
      ['2 samples', { samples: 2 }],
      ['3', { samples: 3 }],
      ['5', { samples: 5 }],
      ['8', { samples: 8 }],
      ['23', { samples: 23 }],
      ['halves of 3 and 2', { samples: 5, halves: true }],
      ['halves of 8', { samples: 16, halves: true }],
      ['half of 16 that its rays allow', { samples: 16, segments: segments / 2 }],
      ['a few of hundreds', { samples: 400, segments: segments / 2 }],
    ])('%s', (_, change) => {
      // With samples in the upper half alone, as a grid that is not filled has them, it lies a quarter of a pixel lower.
      expect(Math.abs(middleOf(change) - expected)).toBeLessThan(0.09);
    });
  });

  it('ends by its rays, with the samples that it came to', () => {
    const full = renderFrame({ ...settings, samples: 16, occlusion: false });
    const half = renderFrame({ ...settings, samples: 16, occlusion: false, segments: full.segments / 2 });
    expect(full.samples).toBe(16);
    expect(half.samples).toBeGreaterThanOrEqual(8);
    expect(half.samples).toBeLessThan(11);
  });

  it('stops when it is told to', () => {
    let asked = 0;
    expect(renderFrame({ ...settings, samples: 16 }, () => (++asked === 3 ? 'stop' : 'go on'))).toBeNull();
    expect(asked).toBe(3);
  });

  it('is written as layers of one file', () => {
    const file = { path: 'a.exr', format: 'exr', compression: 'zip', type: 'half' } as const;
    const bytes = encodePasses(frame, [{ ...file, pass: 'beauty' }, ...LIGHTS.map((pass) => ({ ...file, pass }))], {
      host: 'reef',
      samples: 4,
      frame: 7,
      camera: 'keeper',
      version: 'v003',
      renderTime: 1.25,
    });
    const tools: CodecTools = { inflate: (data, maxOutputLength) => zlib.inflateSync(data, { maxOutputLength }), crc32: (data) => zlib.crc32(data) };
    const { facts, frame: decoded } = inspectFrameFile(memorySource(bytes), 'a.exr', 'full', tools);
    expect(facts).toMatchObject({ problem: null, header: { metadata: { camera: 'keeper', version: 'v003', renderTime: 1.25 } } });
    const plane = (name: string) => decoded!.planes.find(({ channel }) => channel === name)!;
    const middle = (height / 2) * width + width / 2;
    expect(halfToFloat(plane('transmission.G').data[middle])).toBeCloseTo(frame.transmission[middle * 3 + 1], 2);
    expect(decoded!.planes).toHaveLength(16);
  });
});
