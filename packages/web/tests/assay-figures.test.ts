import { parseBrief, type KeptFrame } from '@mint-tally/core';
import { describe, expect, it } from 'vitest';
import { inRegion, summarise } from '$lib/assay/figures';
import { needsOf } from '$lib/assay/needs';
import { heatBands, heatColour, heatReference, typicalTile } from '$lib/assay/tiles';

const frame = (change: Partial<KeptFrame>): KeptFrame => ({
  ...{ pass: 'beauty', frame: 1001, noise: 0.1, relativeNoise: 0.2, temporalNoise: 0.15, fireflies: 3, meanLuminance: 0.3 },
  ...{ by: 'neighbours', host: null, samples: 16, seconds: 2, bytes: 1000 },
  ...change,
});

describe('the figures of a region', () => {
  const part = { pass: 'beauty', frame: 1001, noise: 0.4, relativeNoise: 0.5, temporalNoise: 0.6, meanLuminance: 0.7, fireflies: 1 };

  it('take the place of those of the whole picture; what is not known of a part stays', () => {
    expect(inRegion([frame({})], [part])).toEqual([frame({ noise: 0.4, relativeNoise: 0.5, temporalNoise: 0.6, meanLuminance: 0.7, fireflies: 1 })]);
  });

  it('are none in time where the frame had none, and none at all of frames without tiles', () => {
    expect(inRegion([frame({ temporalNoise: null })], [part])[0]!.temporalNoise).toBeNull();
    const [other] = inRegion([frame({ pass: 'diffuse' })], [part]);
    expect(other).toMatchObject({ noise: null, relativeNoise: null, temporalNoise: null, meanLuminance: null, fireflies: null, samples: 16 });
  });
});

describe('the sums of a pass', () => {
  it('name its worst frame, and nothing where nothing is known', () => {
    const frames = [frame({}), frame({ frame: 1002, noise: 0.3 }), frame({ frame: 1003, noise: null })];
    expect(summarise(frames, 'noise')).toMatchObject([{ pass: 'beauty', frames: 3, usual: 0.2, worst: { frame: 1002 } }]);
    expect(summarise([frame({ noise: null })], 'noise')).toMatchObject([{ usual: null, worst: null }]);
  });
});

describe('a heat map', () => {
  it('is held against what was ordered, else against the typical tile', () => {
    expect(heatReference([0.1, null, 0.4, 0.2], 0.05)).toBe(0.05);
    expect(heatReference([0.1, null, 0, 0.4, 0.2], null)).toBe(0.2);
    expect(heatReference([null, 0], null)).toBe(1);
    expect([typicalTile([0.1, null, 0, 0.4, 0.2]), typicalTile([null, 0])]).toEqual([0.2, null]);
  });

  it('gives each band its own colour, from nothing to the loudest', () => {
    expect(heatBands.map(({ from }) => heatColour(from))).toEqual(heatBands.map(({ colour }) => colour));
    expect(heatColour(0.49)[3]).toBe(0);
    expect(heatColour(1.99)).toEqual(heatColour(1));
    expect(heatColour(1000)).toEqual(heatBands.at(-1)!.colour);
    // No two are alike without their hue, once they lie on the same picture.
    const lightness = heatBands.slice(1).map(({ colour: [red, green, blue] }) => Math.round(0.2126 * red + 0.7152 * green + 0.0722 * blue));
    lightness.forEach((one, i) => lightness.slice(i + 1).forEach((other) => expect(Math.abs(one - other)).toBeGreaterThan(15)));
  });
});

describe('what denoising and steadying need', () => {
  const brief = parseBrief({
    shot: 's',
    range: '1-2',
    passes: [
      { name: 'beauty', role: 'beauty', pattern: 'b.####.exr' },
      { name: 'mv', role: 'motion', pattern: 'm.####.exr' },
      { name: 'n', role: 'normal', pattern: 'n.####.exr' },
    ],
  });
  const against = (role: string, findings: Parameters<typeof needsOf>[1]) => needsOf(brief, findings).find((need) => need.role === role)!;

  it('is there and in step, or not ordered', () => {
    expect(against('motion', [])).toMatchObject({ pass: 'mv', against: [] });
    expect(against('albedo', [])).toMatchObject({ pass: null, against: [] });
  });

  it('has against it what was found of its own pass, each once, and no notes', () => {
    const finding = (pass: string, severity: 'warning' | 'note') => ({ code: 'normal-implausible' as const, pass, severity });
    expect(against('normal', [finding('n', 'warning'), finding('n', 'warning')]).against).toEqual(['Normals of another length']);
    expect(against('normal', [finding('n', 'note'), finding('mv', 'warning')]).against).toEqual([]);
  });
});
