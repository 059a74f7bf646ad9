import { mkdirSync, mkdtempSync, readdirSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import os from 'node:os';
import path from 'node:path';
import { FrameSet, MintError, parseBrief, parseFrameRange } from '@mint-tally/core';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { renderLit, writeLitShot } from '../../../tests/support/lit-shot.ts';
import { denoiseFolder, type DenoiseOptions } from '../src/denoising/denoise-folder.ts';
import { sharedBetweenThreads, sharedMemoryOf } from '../src/threads/shared.ts';

const FRAMES = 6;

let top = '';
let shot = '';
beforeAll(() => {
  top = mkdtempSync(path.join(os.tmpdir(), 'mint-denoise-threads-'));
  shot = path.join(top, 'shot');
  mkdirSync(shot);
  writeLitShot(
    shot,
    Array.from({ length: FRAMES }, (_, i) => renderLit(i, 4, 10 + i)),
  );
});
afterAll(() => rmSync(top, { recursive: true, force: true }));

/** Denoises into a folder of its own. */
function denoise(out: string, options: Partial<DenoiseOptions> = {}) {
  mkdirSync(path.join(top, out), { recursive: true });
  return denoiseFolder({
    folder: shot,
    brief: parseBrief(JSON.parse(readFileSync(path.join(shot, 'brief.json'), 'utf8'))),
    pass: 'beauty',
    limit: top,
    out,
    strength: 1,
    frames: 5,
    range: null,
    now: Date.now(),
    ...options,
  });
}

const contents = (out: string) => Object.fromEntries(readdirSync(path.join(top, out)).map((name) => [name, readFileSync(path.join(top, out, name), 'base64')]));

describe('frames that are denoised on threads', () => {
  it('come out the same to the bit, with the same figures, on however many', async () => {
    const [one, three] = [await denoise('one', { threads: 1 }), await denoise('three', { threads: 3, apart: true })];
    const figures = (denoising: typeof one) => denoising!.frames.map(({ seconds, ...others }) => ({ ...others, tookTime: seconds > 0 }));
    expect(figures(three)).toEqual(figures(one));
    expect(Object.keys(contents('one'))).toHaveLength(FRAMES);
    expect(contents('three')).toEqual(contents('one'));
    // Each differs from the one before; of the first the second tells.
    expect(one!.frames.every(({ temporalNoise }) => temporalNoise! > 0)).toBe(true);
    const [alone, apart] = [await denoise('alone-one', { threads: 1, frames: 1 }), await denoise('alone-two', { threads: 2, frames: 1 })];
    expect(figures(apart)).toEqual(figures(alone));
    expect(contents('alone-two')).toEqual(contents('alone-one'));
  });

  it('are filtered once each, whoever needs them, and those beside a lone one too', async () => {
    expect((await denoise('all', { threads: 3 }))!.filtered).toBe(FRAMES);
    const lone = await denoise('lone', { threads: 2, range: parseFrameRange('1002') });
    expect([lone!.filtered, lone!.frames.map(({ frame, companions }) => [frame, companions])]).toEqual([4, [[1002, 3]]]);
    expect((await denoise('apart', { threads: 2, frames: 3, range: parseFrameRange('1001,1006') }))!.filtered).toBe(4);
  });

  it('that were stopped are gone on with, and come out the same', async () => {
    let written = 0;
    const onProgress = (phase: string, done: number) => (written = phase === 'denoising' ? done : 0);
    const begun = (await denoise('stopped', { threads: 2, onProgress, stopped: () => written >= 2 }))!;
    expect(begun.isStopped).toBe(true);
    const before = Object.keys(contents('stopped'));
    // What is told is what is there.
    expect(begun.frames.map(({ file }) => file)).toEqual(before.sort());
    expect(before.length).toBeGreaterThanOrEqual(2);
    expect(before.length).toBeLessThan(FRAMES);
    const rest = await denoise('stopped', { threads: 2 });
    expect(rest!.isStopped).toBe(false);
    expect(rest!.kept.size + rest!.frames.length).toBe(FRAMES);
    expect(await denoise('at once', { threads: 2, stopped: () => true })).toBeNull();
    await denoise('whole', { threads: 1 });
    expect(contents('stopped')).toEqual(contents('whole'));
  });

  it('end with the first that cannot be written, and leave nothing half done', async () => {
    mkdirSync(path.join(top, 'blocked', '.beauty.1003.exr.unfinished'), { recursive: true });
    writeFileSync(path.join(top, 'blocked', '.beauty.1003.exr.unfinished', 'held'), '');
    await expect(denoise('blocked', { threads: 2 })).rejects.toThrow(MintError);
    const names = readdirSync(path.join(top, 'blocked'));
    expect(names).not.toContain('beauty.1003.exr');
    expect(names.filter((name) => name.endsWith('.unfinished'))).toEqual(['.beauty.1003.exr.unfinished']);
    expect(FrameSet.of(names.flatMap((name) => /^beauty\.(\d+)\.exr$/.exec(name)?.[1] ?? []).map(Number)).size).toBeLessThan(FRAMES);
  });
});

describe('values that threads share', () => {
  it('have the same numbers in memory that all see, and stay one where they were one', () => {
    const large = Float32Array.from({ length: 5000 }, (_, i) => i);
    const value = { a: large, b: [{ same: large }], small: Uint8Array.of(1, 2), text: 'halves', none: null };
    const shared = sharedBetweenThreads(value);
    expect(shared).toEqual(value);
    expect(shared.a.buffer).toBeInstanceOf(SharedArrayBuffer);
    expect(shared.b[0]!.same).toBe(shared.a);
    expect(shared.small).toBe(value.small);
    const across = structuredClone(shared);
    across.a[7] = -1;
    expect([shared.a[7], large[7]]).toEqual([-1, 7]);
    expect(sharedMemoryOf(shared)).toEqual([shared.a.buffer]);
  });

  it('lie in memory that was given back, where it is as large', () => {
    const spare = [new SharedArrayBuffer(8000), new SharedArrayBuffer(20_000), new SharedArrayBuffer(20_000)];
    const [, first, second] = spare;
    const shared = sharedBetweenThreads([new Float32Array(5000).fill(1), new Uint16Array(10_000).fill(2), new Float64Array(2500).fill(3)], spare);
    expect(shared.map(({ buffer }) => buffer)).toEqual([first, second, expect.any(SharedArrayBuffer)]);
    expect(shared.map(([one]) => one)).toEqual([1, 2, 3]);
    expect(spare.map(({ byteLength }) => byteLength)).toEqual([8000]);
  });
});
