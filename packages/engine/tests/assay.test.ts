import { mkdtempSync, writeFileSync } from 'node:fs';
import path from 'node:path';
import { encodePasses, renderFrame, type RenderedFrame, type StudyName } from '@mint-tally/standin-farm';
import { describe, expect, it } from 'vitest';
import {
  beginAssaying,
  assay,
  codesOf,
  FRAMES,
  HEIGHT,
  PASSES,
  rendered,
  top,
  ROLES,
  trueNoise,
  view,
  WIDTH,
  type Printed,
} from '../../../tests/support/assayed-shot.ts';
import { runAssay } from '../src/assaying/command.ts';

beginAssaying();

describe('the noise of a shot', () => {
  it('is exact where halves of its samples were ordered', async () => {
    const { status, printed } = await assay(PASSES);
    expect(status).toBe(0);
    const own = printed.frames.filter(({ pass }) => pass === 'beauty');
    expect(own.map(({ frame, by }) => [frame, by])).toEqual([1001, 1002, 1003, 1004, 1005, 1006].map((frame) => [frame, 'halves']));
    own.forEach(({ noise, tiles, meanLuminance }, i) => {
      expect(noise! / trueNoise(rendered[i]!)).toBeCloseTo(1, 4);
      expect(tiles).toHaveLength(24);
      expect(meanLuminance).toBeGreaterThan(0.05);
    });
    expect(printed.frames.filter(({ pass }) => pass === 'diffuse')).toHaveLength(FRAMES);
  });

  it('is estimated otherwise, with what moves taken out by the vectors', async () => {
    const { printed } = await assay(PASSES.filter((pass) => !pass.startsWith('half')));
    const own = printed.frames.filter(({ pass }) => pass === 'beauty');
    const errors = own.map(({ noise }, i) => noise! / trueNoise(rendered[i]!) - 1);
    expect(Math.max(...errors.map(Math.abs))).toBeLessThan(0.25);
    expect(own.every(({ temporalNoise }) => temporalNoise! > 0.5 * trueNoise(rendered[0]!) && temporalNoise! < 2 * trueNoise(rendered[0]!))).toBe(true);
    expect(printed.vectors?.residual).not.toBeNull();
    expect(own.every(({ by }) => by === 'neighbours')).toBe(true);
  });

  it.each<[string, (values: Float32Array) => Float32Array, object]>([
    ['turned round', (values) => values.map((value) => -value), { sign: -1, down: true, unit: 'pixel' }],
    ['counting upwards', (values) => values.map((value, i) => (i % 2 === 1 ? -value : value)), { sign: 1, down: false, unit: 'pixel' }],
    ['as shares of the picture', (values) => values.map((value, i) => value / (i % 2 === 1 ? HEIGHT : WIDTH)), { sign: 1, down: true, unit: 'picture' }],
    ['from -1 to 1', (values) => values.map((value, i) => (2 * value) / (i % 2 === 1 ? HEIGHT : WIDTH)), { sign: 1, down: true, unit: 'half picture' }],
  ])('finds vectors %s by what they explain', async (_name, change, convention) => {
    const passes = PASSES.filter((pass) => !pass.startsWith('half') && ROLES[pass] !== 'light');
    const usual = await assay(passes);
    const { printed } = await assay(passes, { change: (frame) => ({ ...frame, motion: change(frame.motion) }) });
    // Turned round, vectors tell of the frame after as well as of the one before: what moves goes on about as it came.
    const found = printed.vectors!.convention as { sign: number; neighbour: string };
    const { sign, neighbour, ...others } = found;
    expect({ ...others, sign: neighbour === 'before' ? sign : -sign }).toEqual(convention);
    printed.frames.forEach(({ noise }, i) => expect(noise! / usual.printed.frames[i]!.noise!).toBeCloseTo(1, 1));
  });

  it('takes vectors as the brief says, right or wrong', async () => {
    const passes = PASSES.filter((pass) => !pass.startsWith('half') && ROLES[pass] !== 'light');
    const saying = (vectors: object | undefined) => ({
      passes: passes.map((name) => ({ name, role: ROLES[name], pattern: `${name}/${name}.####.exr`, ...(name === 'motion' && { vectors }) })),
    });
    const noises = async (vectors: object | undefined) => {
      const { printed } = await assay(passes, { brief: saying(vectors) });
      return { vectors: printed.vectors!, noise: printed.frames.reduce((sum, { noise }) => sum + noise!, 0) };
    };
    const found = await noises(undefined);
    const right = { sign: 1, down: true, unit: 'pixel', neighbour: 'before' };
    expect(await noises(right)).toEqual({ vectors: { convention: right, residual: null, isSaid: true }, noise: expect.closeTo(found.noise, 6) as number });
    // Turned round they bring other pixels, and the figures are others.
    const wrong = { ...right, sign: -1 };
    const turned = await noises(wrong);
    expect(turned.vectors.convention).toEqual(wrong);
    expect(turned.noise).not.toBeCloseTo(found.noise, 3);
  });

  it('is known in time of what stands still without vectors, and not at all of black', async () => {
    const { printed } = await assay(['beauty']);
    expect(printed.vectors).toBeNull();
    printed.frames.forEach(({ temporalNoise, noise }, i) => {
      expect(noise).toBeGreaterThan(0);
      // The table turns; what stands still is a part of the picture.
      if (temporalNoise !== null) expect(temporalNoise / trueNoise(rendered[i]!)).toBeLessThan(1.5);
    });
    const black = await assay(['beauty'], { change: (frame) => ({ ...frame, beauty: frame.beauty.map(() => 0) }) });
    expect(black.printed.frames.map(({ noise }) => noise)).toEqual(Array.from({ length: FRAMES }, () => null));
  });

  it('leaves pixels without a number out', async () => {
    const { printed } = await assay(['beauty', 'albedo', 'normal', 'depth'], {
      change: (frame) => ({
        ...frame,
        beauty: frame.beauty.map((value, i) => (i < 8 ? NaN : value)),
      }),
    });
    expect(printed.frames.every(({ noise, meanLuminance }) => Number.isFinite(noise) && Number.isFinite(meanLuminance))).toBe(true);
  });
});

describe('studies of one difficulty each', () => {
  const STEP = 1 / 400;

  it.each<[StudyName, number]>([
    ['texture', 0.15],
    ['plain', 0.1],
    ['mirrors', 0.2],
    ['gloss', 0.2],
    ['indirect', 0.1],
    ['sky', 0.2],
  ])('%s is measured within %d of what its halves tell exactly', async (study, within) => {
    // Halves of nine samples.
    const settings = { view: study, step: STEP, width: WIDTH, height: HEIGHT, samples: 18, halves: true, meanFeatures: true };
    const frames = Array.from({ length: 4 }, (_, i) => renderFrame({ ...settings, time: 0.2 + i * STEP, seed: 40 + i }));
    const { printed } = await assay(['beauty', 'albedo', 'normal', 'depth', 'motion'], { frames });
    expect(printed.findings).toEqual([]);
    const errors = printed.frames.map(({ noise }, i) => noise! / trueNoise(frames[i]!) - 1);
    expect(Math.max(...errors.map(Math.abs))).toBeLessThan(within);
  });

  it('vectors that move what stands still are told where a texture shows it', async () => {
    const settings = { view: 'texture', time: 0.2, step: STEP, width: WIDTH, height: HEIGHT, samples: 16 } as const;
    const still = [1, 2, 3].map((seed) => renderFrame({ ...settings, seed }));
    const passes = ['beauty', 'albedo', 'normal', 'depth', 'motion'] as const;
    const moved = (frame: RenderedFrame) => ({ ...frame, motion: frame.motion.map((_, i) => (i % 2 === 0 ? 4 : 0)) });
    const standing = (frame: RenderedFrame) => ({ ...frame, albedo: still[0]!.albedo });
    expect(codesOf((await assay(passes, { frames: still, change: (frame) => moved(standing(frame)) })).printed)).toEqual([
      'vector-implausible motion 1002-1003',
    ]);
    expect(codesOf((await assay(passes, { frames: still, change: (frame) => ({ ...standing(frame), motion: frame.motion.map(() => 0) }) })).printed)).toEqual(
      [],
    );
  });
});

describe('frames that lack, or cannot be read', () => {
  it('are left out, and the others measured', async () => {
    const folder = mkdtempSync(path.join(top, 'holes-'));
    const file = { pass: 'beauty', path: '', format: 'exr', compression: 'zip', type: 'half' } as const;
    rendered.forEach((frame, i) => {
      const bytes = encodePasses(frame, [file], { host: 'reef', samples: 16, frame: 1001 + i });
      // 1002 is missing, 1004 was cut short, 1005 is another size.
      if (i !== 1) writeFileSync(path.join(folder, `beauty.${1001 + i}.exr`), i === 3 ? bytes.subarray(0, 600) : i === 4 ? smaller() : bytes);
    });
    writeFileSync(
      path.join(folder, 'brief.json'),
      JSON.stringify({ shot: 'a', range: '1001-1006', passes: [{ name: 'beauty', role: 'beauty', pattern: 'beauty.####.exr' }] }),
    );
    const { status, output } = await runAssay([folder, '--brief', path.join(folder, 'brief.json'), '--json'], () => undefined);
    const { frames } = JSON.parse(output) as Printed;
    expect(status).toBe(0);
    expect(frames.map(({ frame, noise }) => [frame, noise! > 0])).toEqual([1001, 1003, 1005, 1006].map((frame) => [frame, true]));
    const text = (await runAssay([folder, '--brief', path.join(folder, 'brief.json')], () => undefined)).output;
    expect(text).toMatch(/1006 [^]*by the picture alone, an upper bound\.\n\nWithout motion vectors/);
  });

  const smaller = () =>
    encodePasses(
      renderFrame({ view, time: 0.2, width: 48, height: 32, samples: 4, seed: 1 }),
      [{ pass: 'beauty', path: '', format: 'exr', compression: 'zip', type: 'half' }],
      { host: 'reef', samples: 4, frame: 1005 },
    );
});

describe('what cannot be measured', () => {
  it('is told in one line', async () => {
    const refused = async (...argv: string[]) => {
      const { status, output, error } = await runAssay(argv, () => undefined);
      expect([status, output, error.includes('\n')]).toEqual([2, '', false]);
      return error;
    };
    expect(await refused()).toContain('Usage: ./mint assay');
    expect(await refused(top)).toContain('No brief was named');
    expect(await refused(path.join(top, 'nowhere'), '--brief', 'x.json')).toContain('nowhere');
    const { status, error } = await assay(['depth']);
    expect([status, error]).toEqual([2, expect.stringContaining('no pass of role beauty or light')]);
  });
});
