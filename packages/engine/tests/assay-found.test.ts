import type { RenderedFrame } from '@mint-tally/standin-farm';
import { describe, expect, it } from 'vitest';
import {
  beginAssaying,
  assay,
  codesOf,
  FRAMES,
  HEIGHT,
  PASSES,
  rendered,
  ROLES,
  trueNoise,
  WIDTH,
  type ShotToAssay,
} from '../../../tests/support/assayed-shot.ts';

beginAssaying();

describe('what is found', () => {
  const lights = PASSES.filter((pass) => ROLES[pass] === 'light' || pass === 'beauty');

  it('is nothing of a sound shot', async () => {
    expect(codesOf((await assay(PASSES)).printed)).toEqual([]);
  });

  it('is more noise than ordered, with what it would take', async () => {
    const target = trueNoise(rendered[0]!) / 2;
    const { printed, status } = await assay(['beauty', 'half1', 'half2'], { brief: { sampling: { noise: target, samples: 16, secondsPerFrame: 60 } } });
    expect(codesOf(printed)).toEqual(['noisy beauty 1001-1006']);
    expect(printed.findings[0]!.message).toMatch(/by the square root law \d+ samples would do: on one machine [\d.]+ minutes for the whole shot/);
    expect(status).toBe(0);
    const blocked = await assay(['beauty', 'half1', 'half2'], { brief: { sampling: { noise: target }, severities: { noisy: 'blocker' } } });
    expect(blocked.status).toBe(1);
  });

  it('is no less noise where a frame is shown twice: its neighbour has the very same', async () => {
    const { printed } = await assay(['beauty', 'albedo', 'normal', 'depth', 'motion'], { change: (frame, number) => (number === 1004 ? rendered[2]! : frame) });
    expect(codesOf(printed).filter((code) => code.startsWith('noise-shift'))).toEqual([]);
    const truth = trueNoise(rendered[2]!);
    for (const number of [1003, 1004]) {
      const { noise, by } = printed.frames.find(({ frame }) => frame === number)!;
      expect(by).toBe('neighbours');
      expect(Math.abs(noise! / truth - 1)).toBeLessThan(0.25);
    }
  });

  it('is a light that does not belong to its frame', async () => {
    const { printed } = await assay(lights, { change: (frame, number) => (number === 1003 ? { ...frame, diffuse: rendered[5]!.diffuse } : frame) });
    expect(codesOf(printed)).toEqual(['sum-mismatch beauty 1003']);
    expect(printed.findings[0]!.message).toContain('no light alone would repair it');
  });

  it('is a light that is too weak, by name', async () => {
    const { printed } = await assay(lights, {
      change: (frame, number) => (number === 1004 ? { ...frame, specular: frame.specular.map((value) => value / 2) } : frame),
    });
    const beauty = printed.findings.filter(({ pass }) => pass === 'beauty');
    expect(beauty.map(({ code, frames }) => `${code} ${frames}`)).toEqual(['sum-mismatch 1004']);
    expect(beauty[0]!.message).toContain('specular taken 2.0 times would repair it');
  });

  const at = (wrong: number, change: (frame: RenderedFrame) => Partial<RenderedFrame>) => (frame: RenderedFrame, number: number) =>
    number === wrong ? { ...frame, ...change(frame) } : frame;

  it.each<[string, string, (frame: RenderedFrame, number: number) => RenderedFrame]>([
    [
      'normals that are a frame behind throughout',
      'pass-offset normal 1003-1005',
      (frame, number) => ({ ...frame, normal: rendered[Math.max(0, number - 1002)]!.normal }),
    ],
    [
      'a depth that is a frame ahead throughout',
      'pass-offset depth 1003-1005',
      (frame, number) => ({ ...frame, depth: rendered[Math.min(FRAMES - 1, number - 1000)]!.depth }),
    ],
    [
      'a depth that is nothing in places',
      'depth-implausible depth 1003',
      at(1003, ({ depth }) => ({ depth: depth.map((value, i) => (i % 50 === 0 ? 0 : value)) })),
    ],
    [
      'a depth that counts the other way round',
      'depth-implausible depth 1002-1006',
      (frame) => ({ ...frame, depth: frame.depth.map((value) => (value > 1e9 ? value : 20 - value)) }),
    ],
    [
      'a depth that says nothing is there, in a part of a frame',
      'depth-implausible depth 1004',
      at(1004, ({ depth }) => ({ depth: depth.map((value, i) => (i % WIDTH < 20 ? 1e10 : value)) })),
    ],
    ['a depth in another unit', 'depth-implausible depth 1003', at(1003, ({ depth }) => ({ depth: depth.map((value) => value * 100) }))],
    ['a depth that is one distance', 'depth-implausible depth 1001-1006', (frame) => ({ ...frame, depth: frame.depth.map(() => 4) })],
    ['normals of half their length', 'normal-implausible normal 1005', at(1005, ({ normal }) => ({ normal: normal.map((value) => value / 2) }))],
    ['an id between two numbers', 'id-implausible brass 1004', at(1004, ({ brass }) => ({ brass: brass.map((value) => value + 0.5) }))],
    ['a matte above 1', 'matte-mismatch glass 1002', at(1002, ({ glass }) => ({ glass: glass.map((value) => value * 1.5) }))],
    [
      'a matte that lacks a part in one frame, of two that sum to the alpha',
      'matte-mismatch glass 1004',
      (frame, number) => ({
        ...frame,
        brass: frame.brass.map((value) => Math.round(value)),
        glass: frame.glass.map((_, i) => (number === 1004 && i < 1000 ? 0 : frame.beauty[i * 4 + 3]!)),
      }),
    ],
    ['vectors that lead the other way in one frame', 'vector-implausible motion 1004', at(1004, ({ motion }) => ({ motion: motion.map((value) => -value) }))],
  ])('is %s', async (_name, finding, change) => {
    expect(codesOf((await assay(PASSES, { change })).printed)).toEqual([finding]);
  });

  const alphaOf = ({ beauty }: RenderedFrame, covers: (pixel: number) => boolean = () => true) =>
    Float32Array.from({ length: WIDTH * HEIGHT }, (_, i) => (covers(i) ? beauty[i * 4 + 3]! : 0));
  const left = (pixel: number) => pixel % WIDTH < 64;

  it.each<[string, string[], ShotToAssay['written']]>([
    [
      'the alpha of a light that covers less',
      ['alpha-mismatch diffuse 1001-1006'],
      (pass, frame) => (pass === 'diffuse' ? { alpha: alphaOf(frame, left) } : {}),
    ],
    [
      'the alpha of a light that covers less in one frame',
      ['alpha-mismatch diffuse 1004'],
      (pass, frame, number) => (pass === 'diffuse' ? { alpha: number === 1004 ? alphaOf(frame, left) : alphaOf(frame) } : {}),
    ],
    ['nothing of lights that have the alpha of the beauty', [], (pass, frame) => (ROLES[pass] === 'light' ? { alpha: alphaOf(frame) } : {})],
    [
      'normals without the rim that the beauty has',
      ['window-mismatch normal 1001-1006'],
      (pass) => (pass === 'normal' ? { dataWindow: [8, 8, WIDTH - 9, HEIGHT - 9] } : {}),
    ],
    ['nothing of passes that all lack the same rim', [], () => ({ dataWindow: [8, 8, WIDTH - 9, HEIGHT - 9] })],
  ])('is %s', async (_name, findings, written) => {
    expect(codesOf((await assay(PASSES, { written })).printed)).toEqual(findings);
  });
});
