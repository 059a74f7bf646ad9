import { describe, expect, it } from 'vitest';
import type { AssayedFrame } from '../src/index.ts';
import { codes, found, shot } from './assayed-shot.ts';

describe('noise along a shot', () => {
  it.each<[string, (i: number) => number]>([
    ['as it is', () => 0.02],
    ['that drifts with what is seen', (i) => 0.02 * (1 + i / 30)],
    ['that comes and goes slowly', (i) => 0.02 * (1.5 + Math.sin(i / 7))],
    ['of nothing', () => 0],
  ])('%s is sound', (_name, noiseOf) => {
    expect(codes(shot(noiseOf))).toEqual([]);
  });

  it.each<[number, readonly string[]]>([
    [5, []],
    [200, ['noise-shift 1021-1026']],
  ])('that %i tiles hold has a step of a third by chance, or by what was rendered', (tiles, told) => {
    const noisier = (i: number) => (i >= 20 && i < 26 ? 0.028 : 0.02);
    expect(codes(shot(noisier, (i) => ({ tiles: new Float64Array(tiles).fill(noisier(i)) })))).toEqual(told);
    // Where the files say that it has other samples it is known to be none.
    const samples = (i: number) => (i >= 20 && i < 26 ? 28 : 64);
    expect(codes(shot(noisier, (i) => ({ tiles: new Float64Array(tiles).fill(noisier(i)), samples: samples(i) })))).toContain('noise-shift 1021-1026');
  });

  it.each<[string, (i: number) => number, string]>([
    ['a noisier run', (i) => (i >= 20 && i < 26 ? 0.03 : 0.02), 'noise-shift 1021-1026'],
    ['a cleaner frame', (i) => (i === 30 ? 0.014 : 0.02), 'noise-shift 1031'],
    ['a noisier end', (i) => (i >= 40 ? 0.028 : 0.02), 'noise-shift 1041-1048'],
    ['a noisier beginning all alike', (i) => (i < 4 ? 0.03 : 0.02), 'noise-shift 1001-1004'],
    ['a start that settles', (i) => 0.02 * (1 + 0.8 * 0.5 ** i), 'unsettled-start 1001-1004'],
  ])('tells %s', (_name, noiseOf, wanted) => {
    expect(codes(shot(noiseOf))).toEqual([wanted]);
  });

  it('tells a start that settles from noise that goes down', () => {
    const short = (noiseOf: (i: number) => number) => codes(shot(noiseOf).slice(0, 12));
    for (const left of [0.4, 0.5, 0.6]) expect(short((i) => 0.02 * (1 + left ** i))[0]).toMatch(/^unsettled-start 1001-100[23456]$/);
    expect(short((i) => 0.02 * Math.SQRT2 ** Math.max(0, 3 - i))).toEqual(['unsettled-start 1001-1003']);
    for (const slowly of [0.8, 0.9, 0.95]) expect(short((i) => 0.02 * (1 + slowly ** i))).toEqual([]);
    // Of a view that brightens, seen through a wide filter.
    const seen = [417, 367, 324, 301, 250, 237, 205, 198, 229, 214, 245, 282];
    expect(short((i) => seen[i]! / 1e4)).toEqual([]);
  });

  it('names what the files say of the run', () => {
    const half = shot(
      (i) => (i >= 20 && i < 26 ? 0.0283 : 0.02),
      (i) => (i >= 20 && i < 26 ? { samples: 32 } : {}),
    );
    expect(found(half)[0]!.message).toMatch(/^6 frames are 1\.4 times as noisy as the frames around, with 32 samples\.$/);
    const one = shot(
      (i) => (i >= 20 && i < 26 ? 0.08 : 0.02),
      (i) => (i >= 20 && i < 26 ? { samples: 1 } : {}),
    );
    expect(found(one)[0]!.message).toMatch(/, with 1 sample\.$/);
    const machine = shot(
      (i) => (i >= 20 && i < 26 ? 0.0283 : 0.02),
      (i) => (i >= 20 && i < 26 ? { host: 'bowline' } : {}),
    );
    expect(found(machine)[0]!.message).toContain(', all of them from bowline.');
  });

  it('believes the files where noise leaps by itself, but not against it', () => {
    // From frame to frame by up to a tenth either way, as with mirrors in a small picture.
    const leap = (i: number) => 0.02 * (1 + 0.1 * Math.sin(i * i * 7.3));
    const isRun = (i: number) => i >= 20 && i < 26;
    expect(codes(shot(leap))).toEqual([]);
    expect(codes(shot((i) => leap(i) * (isRun(i) ? 1.45 : 1)))).toEqual([]);
    expect(
      found(
        shot(
          (i) => leap(i) * (isRun(i) ? 1.45 : 1),
          (i) => (isRun(i) ? { samples: 32 } : {}),
        ),
      ).map(({ code }) => code),
    ).toEqual(['noise-shift']);
    // More samples where there is more noise: chosen by what is there.
    expect(
      codes(
        shot(
          (i) => leap(i) * (isRun(i) ? 1.45 : 1),
          (i) => (isRun(i) ? { samples: 128 } : {}),
        ),
      ),
    ).toEqual([]);
    // Samples that change in every frame, and noise that does not follow them.
    expect(codes(shot(leap, (i) => ({ samples: 64 + ((i * 37) % 11) })))).toEqual([]);
  });

  it('believes them of a light as well, however its noise leaps, where the beauty was told of', () => {
    const isRun = (i: number) => i >= 20 && i < 26;
    const samples = (i: number) => (isRun(i) ? { samples: 32 } : {});
    const light = shot(
      (i) => 0.02 * (1 + 0.25 * Math.sin(i * i * 7.3)) * (isRun(i) ? 1.8 : 1),
      (i) => ({ pass: 'diffuse', ...samples(i) }),
    );
    const passes = ['beauty', 'diffuse'].map((name) => ({ name, role: name === 'beauty' ? name : 'light', pattern: `${name}.####.exr` }));
    const of = (beauty: AssayedFrame[]) =>
      found([...beauty, ...light], { passes }).flatMap(({ code, pass, frames }) => (pass === 'diffuse' ? [`${code} ${String(frames)}`] : []));
    expect(of(shot((i) => (isRun(i) ? 0.0283 : 0.02), samples))).toEqual(['noise-shift 1021-1026']);
    // The beauty is as it always is: then a light whose noise leaps so is as well.
    expect(of(shot(() => 0.02))).toEqual([]);
  });
});

it('a frame that covers more of the picture than those beside it is not held against their noise', () => {
  const frames = (covered: number) =>
    shot(
      (i) => (i === 30 ? 0.014 : 0.02),
      (i) => ({ covered: i === 30 ? covered : 0.5 }),
    );
  expect(codes(frames(0.5))).toEqual(['noise-shift 1031']);
  expect(codes(frames(1))).toEqual([]);
});
