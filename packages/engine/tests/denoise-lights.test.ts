import { mkdirSync, mkdtempSync, readdirSync, readFileSync, rmSync, statSync, writeFileSync } from 'node:fs';
import os from 'node:os';
import path from 'node:path';
import { luminanceOf, memorySource, recogniseFormat, sumOfLights } from '@mint-tally/core';
import { encodePasses, type RenderedFrame } from '@mint-tally/standin-farm';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { LIT_LIGHTS, LIT_PASSES, litBrief, renderLit, writeLitShot } from '../../../tests/support/lit-shot.ts';
import { runAssay } from '../src/assaying/command.ts';
import { runDenoise } from '../src/denoising/command.ts';
import { codecTools } from '../src/inspection/codec-tools.ts';

interface Printed {
  written: number;
  kept: string;
  lights: { pass: string; missing: string }[];
  frames: { noiseBefore: number }[];
}

const FRAMES = 3;
const NAMES = [1001, 1002, 1003];
const ALL = [...LIT_PASSES, ...LIT_LIGHTS];
let top = '';
let frames: RenderedFrame[];
let truth: RenderedFrame;
const anew = () => mkdtempSync(path.join(top, 'shot-'));
const shotOf = () => writeLitShot(anew(), frames, ALL);

async function denoise(folder: string, out: string, ...more: string[]): Promise<{ status: number; printed: Printed; error: string }> {
  const words = [folder, '--brief', path.join(folder, 'brief.json'), '--pass', 'beauty', '--out', out, '--frames', '3', '--json', ...more];
  const { status, output, error } = await runDenoise(words, () => undefined);
  return { status, printed: (output === '' ? {} : JSON.parse(output)) as Printed, error };
}

function lightIn(file: string, channels: readonly string[] | null = null) {
  const source = memorySource(readFileSync(file));
  return luminanceOf(recogniseFormat(source, file).open(source).decode(codecTools).frame, channels)!;
}

/** Share of the pixels in which lights do not sum to a beauty. */
const offSum = (beauty: string, lightFile: (pass: string) => string) =>
  sumOfLights(
    lightIn(beauty),
    LIT_LIGHTS.map((pass) => ({ ...lightIn(lightFile(pass)), pass })),
  )!.share;

beforeAll(() => {
  top = mkdtempSync(path.join(os.tmpdir(), 'mint-denoise-lights-'));
  frames = Array.from({ length: FRAMES }, (_, i) => renderLit(i, 9, 10 + i, 'mirrors'));
  truth = renderLit(1, 400, 999, 'mirrors');
});
afterAll(() => rmSync(top, { recursive: true, force: true }));

describe('mint denoise --with-lights', () => {
  it('writes the lights beside the beauty: they sum to it, have less noise, and change nothing of it', async () => {
    const folder = shotOf();
    const [alone, out] = [path.join(top, 'alone'), path.join(top, 'along')];
    await denoise(folder, alone);
    const { status, printed } = await denoise(folder, out, '--with-lights');
    expect([status, printed.written, printed.lights]).toEqual([0, FRAMES, LIT_LIGHTS.map((pass) => ({ pass, missing: '' }))]);
    for (const frame of NAMES) {
      const beauty = path.join(out, `beauty.${frame}.exr`);
      expect(readFileSync(beauty)).toEqual(readFileSync(path.join(alone, `beauty.${frame}.exr`)));
      expect(offSum(beauty, (pass) => path.join(out, pass, `${pass}.${frame}.exr`))).toBe(0);
    }
    const errorOf = (file: string, pass: 'diffuse' | 'specular') => {
      const { values } = lightIn(file);
      const at = (i: number) => 0.2126 * truth[pass][i * 3]! + 0.7152 * truth[pass][i * 3 + 1]! + 0.0722 * truth[pass][i * 3 + 2]!;
      return Math.sqrt(values.reduce((sum, value, i) => sum + (value - at(i)) ** 2, 0) / values.length);
    };
    for (const pass of ['diffuse', 'specular'] as const)
      expect(errorOf(path.join(out, pass, `${pass}.1002.exr`), pass)).toBeLessThan(errorOf(path.join(folder, pass, `${pass}.1002.exr`), pass) / 1.3);
  });

  it('goes on where it stopped, and with the lights of a beauty that is there already', async () => {
    const [folder, out] = [shotOf(), path.join(top, 'again')];
    await denoise(folder, out);
    const beauty = path.join(out, 'beauty.1002.exr');
    const before = statSync(beauty).mtimeMs;
    expect((await denoise(folder, out, '--with-lights')).printed).toMatchObject({ written: FRAMES, kept: '' });
    expect(statSync(beauty).mtimeMs).toBe(before);
    const light = path.join(out, 'specular', 'specular.1002.exr');
    const bytes = readFileSync(light);
    rmSync(light);
    expect((await denoise(folder, out, '--with-lights')).printed).toMatchObject({ written: 1, kept: '1001,1003' });
    expect(readFileSync(light)).toEqual(bytes);
    expect((await denoise(folder, out, '--with-lights')).printed).toMatchObject({ written: 0, kept: '1001-1003' });
    // By its own weights it is something else.
    const own = await denoise(folder, path.join(out, 'specular'), '--pass', 'specular');
    expect([own.status, own.error]).toEqual([2, expect.stringContaining('holds other files for the frames 1001-1003') as string]);
  });

  it('tells where a light cannot go along, and does the others', async () => {
    const [folder, out] = [shotOf(), path.join(top, 'gaps')];
    rmSync(path.join(folder, 'specular', 'specular.1002.exr'));
    const cut = path.join(folder, 'emission', 'emission.1003.exr');
    writeFileSync(cut, readFileSync(cut).subarray(0, -100));
    const { status, printed } = await denoise(folder, out, '--with-lights');
    expect([status, printed.written]).toEqual([1, FRAMES]);
    expect(printed.lights).toEqual([
      { pass: 'diffuse', missing: '' },
      { pass: 'specular', missing: '1002' },
      { pass: 'transmission', missing: '' },
      { pass: 'emission', missing: '1003' },
    ]);
    expect(readdirSync(path.join(out, 'specular')).sort()).toEqual(['specular.1001.exr', 'specular.1003.exr']);
    expect(readdirSync(path.join(out, 'diffuse'))).toHaveLength(FRAMES);
    // The other lights are as they are with all of them.
    const whole = path.join(top, 'gaps-whole');
    await denoise(shotOf(), whole, '--with-lights');
    const diffuse = path.join('diffuse', 'diffuse.1002.exr');
    expect(readFileSync(path.join(out, diffuse))).toEqual(readFileSync(path.join(whole, diffuse)));
  });

  it('keeps layers of one file in one file', async () => {
    const folder = anew();
    mkdirSync(path.join(folder, 'all'));
    const file = { path: '', format: 'exr', compression: 'zip', type: 'half' } as const;
    frames.forEach((frame, i) => {
      const layers = ALL.map((pass) => ({ ...file, pass }));
      writeFileSync(path.join(folder, 'all', `all.${1001 + i}.exr`), encodePasses(frame, layers, { host: 'reef', samples: 9, frame: 1001 + i }));
    });
    const brief = litBrief(FRAMES, ALL);
    const layersOf = (name: string) =>
      name === 'beauty' ? ['R', 'G', 'B', 'A'] : name === 'depth' ? ['depth.Z'] : ['R', 'G', 'B'].map((one) => `${name}.${one}`);
    const usual = new Set<string>(['beauty', 'albedo', ...LIT_LIGHTS]);
    const passes = brief.passes.filter(({ name }) => usual.has(name)).map((pass) => ({ ...pass, pattern: 'all/all.####.exr', channels: layersOf(pass.name) }));
    writeFileSync(path.join(folder, 'brief.json'), JSON.stringify({ ...brief, passes }));
    const out = path.join(top, 'layers');
    const { status, printed } = await denoise(folder, out, '--with-lights');
    expect([status, printed.written]).toEqual([0, FRAMES]);
    expect(readdirSync(out).sort()).toEqual(NAMES.map((frame) => `all.${frame}.exr`));
    const made = path.join(out, 'all.1002.exr');
    const lights = LIT_LIGHTS.map((pass) => ({ ...lightIn(made, layersOf(pass)), pass }));
    expect(sumOfLights(lightIn(made, layersOf('beauty')), lights)!.share).toBe(0);
    const source = memorySource(readFileSync(made));
    expect(recogniseFormat(source, made).open(source).header.metadata).toMatchObject({
      denoised: 'strength middle (1), steadied over 3 frames, with diffuse, specular, transmission, emission',
      denoisedFrom: 'beauty, diffuse, specular, transmission, emission',
    });
    // What holds no light is as it was.
    expect(lightIn(made, layersOf('albedo')).values).toEqual(lightIn(path.join(folder, 'all', 'all.1002.exr'), layersOf('albedo')).values);
  });

  it('is refused where no lights go along', async () => {
    const folder = writeLitShot(anew(), frames.slice(0, 1));
    expect(await denoise(folder, path.join(top, 'none'), '--with-lights')).toMatchObject({
      status: 2,
      error: expect.stringContaining('orders no lights') as string,
    });
    const lit = writeLitShot(anew(), frames.slice(0, 1), ALL);
    const light = await denoise(lit, path.join(top, 'none'), '--with-lights', '--pass', 'diffuse');
    expect([light.status, light.error]).toEqual([2, expect.stringContaining('diffuse is no beauty') as string]);
  });
});

describe('mint denoise of a light by itself', () => {
  // One light may be nothing but edges, of which its own pixels cannot tell whether a wide filter joined their noise.
  it('goes by the noise that is measured of it beside its beauty', async () => {
    const folder = shotOf();
    const { output } = await runAssay([folder, '--brief', path.join(folder, 'brief.json'), '--json'], () => undefined);
    const assayed = JSON.parse(output) as { frames: { pass: string; frame: number; noise: number }[] };
    for (const light of LIT_LIGHTS) {
      const { printed } = await denoise(folder, path.join(top, `own-${light}`), '--pass', light);
      const noises = assayed.frames.filter(({ pass }) => pass === light).map(({ noise }) => noise);
      expect(printed.frames.map(({ noiseBefore }) => noiseBefore / noises[0]!)).toEqual(noises.map((noise) => expect.closeTo(noise / noises[0]!, 6) as number));
    }
  });

  it('is measured where its beauty is not there', async () => {
    const folder = writeLitShot(anew(), frames, ['diffuse', 'albedo', 'normal', 'depth', 'motion']);
    const { status, printed } = await denoise(folder, path.join(top, 'no-beauty'), '--pass', 'diffuse');
    expect([status, printed.written]).toEqual([0, FRAMES]);
    expect(printed.frames.every(({ noiseBefore }) => noiseBefore > 0)).toBe(true);
  });
});
