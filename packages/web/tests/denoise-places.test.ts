import { denoiseRequestSchema, parseBrief } from '@mint-tally/core';
import type { DenoiseRun } from '@mint-tally/store';
import { describe, expect, it } from 'vitest';
import { madeBy, placeFor, placesWithLights, type MadePass } from '../src/lib/server/denoise-places.ts';

const beauty = { name: 'beauty', role: 'beauty', pattern: 'beauty/orr_beauty.####.exr' };
const light = (name: string, pattern = `${name}/orr_${name}.####.exr`) => ({ name, role: 'light', pattern });
const briefOf = (...passes: object[]) => parseBrief({ shot: 'orr_010', range: '1001-1010', passes: [beauty, ...passes] });
const apart = briefOf(light('diffuse'), light('specular'));
const MIDDLE = [1, 5] as const;
const withLights = (brief: ReturnType<typeof briefOf>, made: readonly MadePass[] = [], way: readonly [number, number] = MIDDLE) =>
  placesWithLights(brief, brief.passes[0]!, way, made);

/** A run that was asked for as this says. */
const runOf = (more: object, [strength, frames]: readonly [number, number] = MIDDLE) =>
  ({
    request: denoiseRequestSchema.parse({
      purpose: 'range',
      pass: 'beauty',
      strengths: [strength],
      frames,
      range: '1001-1010',
      region: null,
      measuredAt: null,
      ...more,
    }),
  }) as DenoiseRun;

describe('where lights go that go along with a beauty', () => {
  it('is beside each of their originals', () => {
    const { target, lights } = withLights(apart);
    expect(target).toEqual({ name: 'beauty_denoised', pattern: 'beauty_denoised/orr_beauty_denoised.####.exr' });
    expect(lights.map((one) => one.target)).toEqual([
      { name: 'diffuse_denoised', pattern: 'diffuse_denoised/orr_diffuse_denoised.####.exr' },
      { name: 'specular_denoised', pattern: 'specular_denoised/orr_specular_denoised.####.exr' },
    ]);
  });

  it('is where they went before in the same way, beside a beauty that went without them too', () => {
    const first = withLights(apart);
    expect(withLights(apart, madeBy([runOf(first)]))).toEqual(first);
    const alone = madeBy([runOf({ target: first.target })]);
    expect(withLights(apart, alone)).toEqual(first);
    expect(placeFor(apart, 'beauty', '1 5', madeBy([runOf(first)]))).toEqual(first.target);
  });

  it('is another place in another way, and beside one that was denoised by itself', () => {
    const first = withLights(apart);
    const stronger = withLights(apart, madeBy([runOf(first)]), [2, 5]);
    expect([stronger.target!.name, ...stronger.lights.map((one) => one.target.name)]).toEqual([
      'beauty_denoised_2',
      'diffuse_denoised_2',
      'specular_denoised_2',
    ]);
    const own = madeBy([runOf({ pass: 'diffuse', target: { name: 'diffuse_denoised', pattern: 'diffuse_denoised/orr_diffuse_denoised.####.exr' } })]);
    expect(withLights(apart, own).lights.map((one) => one.target.name)).toEqual(['diffuse_denoised_2', 'specular_denoised']);
  });

  it('is in one file for those that live in one, which another file is then without them', () => {
    const layered = briefOf(light('diffuse', beauty.pattern), light('key', 'lights/orr.####.exr'), light('fill', 'lights/orr.####.exr'));
    const { target, lights } = withLights(layered);
    expect(lights.map((one) => [one.target.name, one.target.pattern])).toEqual([
      ['diffuse_denoised', target!.pattern],
      ['key_denoised', 'lights_denoised/orr_denoised.####.exr'],
      ['fill_denoised', 'lights_denoised/orr_denoised.####.exr'],
    ]);
    const made = madeBy([runOf({ target, lights })]);
    expect(withLights(layered, made)).toEqual({ target, lights });
    expect(placeFor(layered, 'beauty', '1 5', made).name).toBe('beauty_denoised_2');
  });
});
