import { cpSync, writeFileSync } from 'node:fs';
import path from 'node:path';
import { encodePasses } from '@mint-tally/standin-farm';
import { findDenoise } from '@mint-tally/store';
import { describe, expect, it } from 'vitest';
import { renderLit, writeLitShot } from '../../../tests/support/lit-shot.ts';
import { findReferences, keepReference } from '../src/denoising/references.ts';
import { Housekeeper, testPlace } from '../src/index.ts';
import {
  beginDenoising,
  top,
  database,
  config,
  reports,
  makeShot,
  testOf,
  begin,
  settle,
  filesIn,
  namesOf,
  decoded,
} from '../../../tests/support/denoising.ts';

beginDenoising();

describe('a test', () => {
  it('tries each strength beside the shot, with figures and the ghosts that it kept out', async () => {
    const { id, folder } = await makeShot('test');
    const before = filesIn(folder);
    const { run, jobs } = await begin(id, testOf([0.5, 2], '1003-1005'));
    await settle(jobs[0]!);
    const { outcome, parts } = (await findDenoise(database, run))!;
    expect([outcome, parts.length]).toEqual(['done', 2]);
    const [light, strong] = parts.map(({ figures }) => figures!);
    expect(light!.noise!).toBeLessThan(light!.noiseBefore! / 2);
    expect(strong!.noise!).toBeLessThan(light!.noise!);
    for (const { detail, temporalNoise, temporalBefore } of [light!, strong!]) {
      expect(detail!).toBeGreaterThan(0.3);
      expect(detail!).toBeLessThan(1.1);
      expect(temporalNoise!).toBeLessThan(temporalBefore! / 2);
    }
    expect(strong!.detail!).toBeLessThan(light!.detail! + 0.02);
    // The shot's own folder is as it was.
    expect(filesIn(folder)).toEqual(before);
    const place = testPlace(run, 2);
    expect(filesIn(path.join(config.dataFolder, place.pictures))).toEqual(namesOf('beauty', '1003-1005'));
    const [ghosts] = decoded(path.join(config.dataFolder, place.ghosts, 'beauty.1004.exr')).planes;
    expect([ghosts!.channel, ghosts!.width, ghosts!.height]).toEqual(['Y', 112, 64]);
    const shares = Float32Array.from(ghosts!.data);
    expect(Math.min(...shares)).toBeGreaterThanOrEqual(0);
    expect(Math.max(...shares)).toBeLessThanOrEqual(1);
    expect(shares.some((share) => share > 0.5)).toBe(true);
  });

  it('of a part of the picture writes that part, in its place, nearly as the whole has it', async () => {
    const { id } = await makeShot('part');
    const whole = await begin(id, testOf([1], '1004'));
    const part = await begin(id, { ...testOf([1], '1004'), region: [40, 20, 30, 10] });
    await settle(whole.jobs[0]!);
    await settle(part.jobs[0]!);
    const of = (run: number) => decoded(path.join(config.dataFolder, testPlace(run, 1).pictures, 'beauty.1004.exr'));
    const [large, small] = [of(whole.run), of(part.run)];
    expect(small.header.dataWindow).toEqual([32, 16, 79, 31]);
    expect(small.header.displayWindow).toEqual([0, 0, 111, 63]);
    const red = (frame: typeof large) => frame.planes.find(({ channel }) => channel === 'R')!;
    const half = (await import('@mint-tally/core')).halfToFloat;
    let [differs, all] = [0, 0];
    for (let y = 0; y < 16; y++) {
      for (let x = 0; x < 48; x++) {
        const inSmall = half(red(small).data[red(small).offset + (y * 48 + x) * red(small).stride]!);
        const inLarge = half(red(large).data[red(large).offset + ((y + 16) * 112 + x + 32) * red(large).stride]!);
        differs += Math.abs(inSmall - inLarge);
        all += inLarge;
      }
    }
    expect(differs / all).toBeLessThan(0.02);
  });

  it('holds detail against a render with more samples, where one was made for the brief’s sums', async () => {
    const { id } = await makeShot('referred');
    const made = path.join(top, 'made');
    writeLitShot(made, [renderLit(3, 64, 77)]);
    const keep = (frame: number, samples: number) => {
      cpSync(path.join(made, 'beauty', 'beauty.1001.exr'), path.join(top, 'best.exr'));
      keepReference(config, id, frame, samples, path.join(top, 'best.exr'));
    };
    keep(1004, 32);
    keep(1004, 64);
    keep(1004, 16);
    expect([...findReferences(config, id).values()].map((file) => path.basename(file))).toEqual(['1004-64.exr']);
    const figuresFor = async (range: string) => {
      const { run, jobs } = await begin(id, testOf([1], range));
      await settle(jobs[0]!);
      return (await findDenoise(database, run))!.parts[0]!.figures!;
    };
    const [own, referred] = [await figuresFor('1006'), await figuresFor('1003-1005')];
    // The file says 16 samples, as the shot's own do: no better render.
    expect([own.isReferred, referred.isReferred]).toEqual([false, false]);
    // Sixteen times its samples, as 64 are of the 4 that it was rendered with.
    writeFileSync(
      path.join(config.dataFolder, 'references', String(id), '1004-64.exr'),
      encodePasses(renderLit(3, 64, 77), [{ pass: 'beauty', path: '', format: 'exr', compression: 'zip', type: 'half' }], {
        host: 'reef',
        samples: 256,
        frame: 1004,
      }),
    );
    const better = await figuresFor('1003-1005');
    expect(better.isReferred).toBe(true);
    expect(better.detail!).toBeGreaterThan(0.5);
    expect(better.detail!).toBeLessThan(1.1);
    writeFileSync(path.join(config.dataFolder, 'references', String(id), '1004-64.exr'), 'no picture');
    expect((await figuresFor('1003-1005')).isReferred).toBe(false);
  });

  it('is cleared away when newer ones of the shot are there, and the newest are kept', async () => {
    const { id } = await makeShot('cleared');
    const runs: number[] = [];
    for (let i = 0; i < 4; i++) {
      const { run, jobs } = await begin(id, { ...testOf([1], '1001'), frames: 1 });
      await settle(jobs[0]!);
      runs.push(run);
    }
    await new Housekeeper(database, config, (line) => reports.push(line)).keep(Date.now());
    const kept = filesIn(path.join(config.dataFolder, 'denoise-tests')).map(Number);
    expect(runs.map((run) => kept.includes(run))).toEqual([false, true, true, true]);
  });
});
