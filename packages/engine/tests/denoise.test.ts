import { spawnSync } from 'node:child_process';
import { cpSync, existsSync, mkdirSync, mkdtempSync, readdirSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import os from 'node:os';
import path from 'node:path';
import { luminanceOf, memorySource, recogniseFormat } from '@mint-tally/core';
import { encodePasses, type RenderedFrame } from '@mint-tally/standin-farm';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { LIT, renderLit, writeLitShot } from '../../../tests/support/lit-shot.ts';
import { runDenoise } from '../src/denoising/command.ts';
import { codecTools } from '../src/inspection/codec-tools.ts';

const FRAMES = 5;

interface Printed {
  written: number;
  frames: {
    frame: number;
    noiseBefore: number;
    noiseAfter: number;
    temporalBefore: number;
    temporalAfter: number | null;
    companions: number;
    notNumbers: number;
  }[];
  kept: string;
  missing: string;
  unreadable: string;
  lacking: string[];
}

let top = '';
let shot = '';
let truth: RenderedFrame;
const anew = () => mkdtempSync(path.join(top, 'shot-'));
const copyOfShot = () => {
  const folder = anew();
  cpSync(shot, folder, { recursive: true });
  return folder;
};

async function denoise(folder: string, out: string, ...more: string[]): Promise<{ status: number; printed: Printed; error: string }> {
  const { status, output, error } = await runDenoise(
    [folder, '--brief', path.join(folder, 'brief.json'), '--pass', 'beauty', '--out', out, '--json', ...more],
    () => undefined,
  );
  return { status, printed: (output === '' ? {} : JSON.parse(output)) as Printed, error };
}

function decoded(file: string) {
  const source = memorySource(readFileSync(file));
  return recogniseFormat(source, file).open(source).decode(codecTools).frame;
}

/** What a file's luminance differs by from what is true of the third frame. */
function errorOf(file: string): number {
  const { values } = luminanceOf(decoded(file))!;
  const at = (i: number) => 0.2126 * truth.beauty[i * 4]! + 0.7152 * truth.beauty[i * 4 + 1]! + 0.0722 * truth.beauty[i * 4 + 2]!;
  return Math.sqrt(values.reduce((sum, value, i) => sum + (value - at(i)) ** 2, 0) / values.length);
}

beforeAll(() => {
  top = mkdtempSync(path.join(os.tmpdir(), 'mint-denoise-'));
  truth = renderLit(2, 400, 999);
  shot = writeLitShot(
    anew(),
    Array.from({ length: FRAMES }, (_, i) => renderLit(i, 16, 10 + i)),
  );
});
afterAll(() => rmSync(top, { recursive: true, force: true }));

describe('mint denoise', () => {
  it('writes frames that are nearer to the truth, and nearer still with their neighbours', async () => {
    const [alone, steadied] = [path.join(top, 'alone'), path.join(top, 'steadied')];
    const before = errorOf(path.join(shot, 'beauty', 'beauty.1003.exr'));
    expect((await denoise(shot, alone, '--frames', '1')).status).toBe(0);
    const { status, printed } = await denoise(shot, steadied, '--frames', '5');
    expect([status, printed.written, printed.missing, printed.unreadable, printed.lacking]).toEqual([0, FRAMES, '', '', []]);
    expect(readdirSync(steadied).sort()).toEqual([1001, 1002, 1003, 1004, 1005].map((frame) => `beauty.${frame}.exr`));
    const [one, five] = [alone, steadied].map((folder) => errorOf(path.join(folder, 'beauty.1003.exr'))) as [number, number];
    expect(one).toBeLessThan(before / 1.5);
    expect(five).toBeLessThan(one);
    expect(printed.frames.map(({ companions }) => companions)).toEqual([2, 3, 4, 3, 2]);
    for (const { noiseBefore, noiseAfter, temporalBefore, temporalAfter } of printed.frames) {
      expect(noiseAfter).toBeLessThan(noiseBefore / 2);
      expect(temporalAfter).toBeLessThan(temporalBefore / 3);
    }
  });

  it('keeps windows, alpha, types and notes, and says how it was made', async () => {
    const out = path.join(top, 'kept');
    await denoise(shot, out, '--range', '1002', '--strength', 'strong', '--frames', '3');
    const [original, made] = [decoded(path.join(shot, 'beauty', 'beauty.1002.exr')), decoded(path.join(out, 'beauty.1002.exr'))];
    const { denoised, denoisedFrom, denoisedSource, ...notes } = made.header.metadata;
    expect([denoised, denoisedFrom]).toEqual(['strength strong (2), steadied over 3 frames', 'beauty']);
    expect(denoisedSource).toMatch(/^[0-9a-f]{64}$/);
    expect({ ...made.header, metadata: notes }).toEqual(original.header);
    const alphaOf = (frame: typeof made) => frame.planes.find(({ channel }) => channel === 'A')!.data;
    expect(alphaOf(made)).toEqual(alphaOf(original));
  });

  it('goes on where it stopped, and never over other files', async () => {
    const out = path.join(top, 'again');
    await denoise(shot, out, '--frames', '1');
    const first = readFileSync(path.join(out, 'beauty.1004.exr'));
    rmSync(path.join(out, 'beauty.1004.exr'));
    // What a killed run leaves behind.
    writeFileSync(path.join(out, '.beauty.1004.exr.unfinished'), first.subarray(0, 1000));
    const { status, printed } = await denoise(shot, out, '--frames', '1');
    expect([status, printed.written, printed.kept]).toEqual([0, 1, '1001-1003,1005']);
    expect(readFileSync(path.join(out, 'beauty.1004.exr'))).toEqual(first);
    expect(existsSync(path.join(out, '.beauty.1004.exr.unfinished'))).toBe(false);
    expect((await denoise(shot, out, '--frames', '1')).printed).toMatchObject({ written: 0, kept: '1001-1005' });
    const other = await denoise(shot, out, '--frames', '1', '--strength', 'light');
    expect([other.status, other.error]).toEqual([2, expect.stringContaining('holds other files for the frames 1001-1005') as string]);
    expect(readFileSync(path.join(out, 'beauty.1004.exr'))).toEqual(first);
  });

  it('says that the disk is full when it is, leaves only whole frames, and goes on when there is room', async () => {
    const small = path.join(top, 'small');
    mkdirSync(small);
    const file = path.join(shot, 'beauty', 'beauty.1001.exr');
    // For one frame and a half.
    const room = `size=${Math.ceil((1.5 * readFileSync(file).length) / 4096) * 4}k`;
    if (spawnSync('mount', ['-t', 'tmpfs', '-o', room, 'tmpfs', small]).status !== 0) return expect(process.getuid!()).not.toBe(0);
    try {
      const full = await denoise(shot, small, '--frames', '1');
      expect([full.status, full.error]).toEqual([2, expect.stringMatching(/^mint denoise: .*full/) as string]);
      const whole = readdirSync(small);
      expect(whole.every((name) => /^beauty\.100\d\.exr$/.test(name))).toBe(true);
      expect(whole.length).toBeLessThan(FRAMES);
      spawnSync('mount', ['-o', 'remount,size=10m', small]);
      const { status, printed } = await denoise(shot, small, '--frames', '1');
      expect([status, printed.written]).toEqual([0, FRAMES - whole.length]);
    } finally {
      spawnSync('umount', [small]);
    }
  });

  it('writes over neither a cut frame nor one whose original has changed, and names them', async () => {
    const [folder, out] = [copyOfShot(), path.join(top, 'changed')];
    await denoise(folder, out, '--frames', '1', '--range', '1001-1002');
    const file = path.join(out, 'beauty.1001.exr');
    writeFileSync(file, readFileSync(file).subarray(0, 2000));
    expect((await denoise(folder, out, '--frames', '1', '--range', '1001')).error).toContain('1001');
    cpSync(path.join(folder, 'beauty', 'beauty.1005.exr'), path.join(folder, 'beauty', 'beauty.1002.exr'));
    expect((await denoise(folder, out, '--frames', '1', '--range', '1002')).error).toContain('1002');
  });

  it('tells of frames that are not there, or cannot be read, and denoises the others', async () => {
    const [folder, out] = [copyOfShot(), path.join(top, 'gaps')];
    rmSync(path.join(folder, 'beauty', 'beauty.1002.exr'));
    writeFileSync(path.join(folder, 'beauty', 'beauty.1004.exr'), readFileSync(path.join(folder, 'beauty', 'beauty.1004.exr')).subarray(0, 3000));
    const { status, printed } = await denoise(folder, out);
    expect([status, printed.written, printed.missing, printed.unreadable]).toEqual([1, 3, '1002', '1004']);
    expect(readdirSync(out).sort()).toEqual([1001, 1003, 1005].map((frame) => `beauty.${frame}.exr`));
    // No neighbour follows any of them.
    expect(printed.frames.map(({ companions }) => companions)).toEqual([0, 0, 0]);
  });

  it('takes nothing across a cut', async () => {
    const folder = copyOfShot();
    const brief = path.join(folder, 'brief.json');
    writeFileSync(brief, JSON.stringify({ ...(JSON.parse(readFileSync(brief, 'utf8')) as object), cuts: '1003' }));
    const { printed } = await denoise(folder, path.join(top, 'cuts'));
    expect(printed.frames.map(({ companions }) => companions)).toEqual([1, 1, 2, 2, 2]);
  });

  it('works with the colours alone, and says what would help', async () => {
    const folder = writeLitShot(anew(), [renderLit(2, 16, 12)], ['beauty']);
    const { status, printed } = await denoise(folder, path.join(top, 'bare'), '--range', '1001');
    expect([status, printed.written]).toEqual([0, 1]);
    expect(printed.lacking.map((lack) => lack.split(' ')[0])).toEqual(['albedo', 'normal', 'depth', 'motion']);
    expect(errorOf(path.join(top, 'bare', 'beauty.1001.exr'))).toBeLessThan(errorOf(path.join(folder, 'beauty', 'beauty.1001.exr')));
  });

  it('leaves pixels that are no numbers as they are, and tells how many', async () => {
    const frame = renderLit(2, 16, 12);
    frame.beauty[4 * (20 * LIT.width + 30)] = NaN;
    frame.beauty[4 * (20 * LIT.width + 31)] = Infinity;
    const folder = writeLitShot(anew(), [frame]);
    const { printed } = await denoise(folder, path.join(top, 'holes'), '--range', '1001');
    expect(printed.frames[0]!.notNumbers).toBe(2);
    const red = decoded(path.join(top, 'holes', 'beauty.1001.exr')).planes.find(({ channel }) => channel === 'R')!;
    const [nan, infinite, beside] = [30, 31, 32].map((x) => red.data[red.offset + (20 * LIT.width + x) * red.stride]!);
    expect(nan! & 0x7c00 && nan! & 0x3ff).toBeTruthy();
    expect(infinite).toBe(0x7c00);
    expect(beside! & 0x7c00).not.toBe(0x7c00);
  });

  it.each([
    [['--pass', 'normal'], 'The pass normal is not denoised'],
    [['--pass', 'spec'], 'orders no pass spec'],
    [['--strength', 'mild'], '“mild” is no strength'],
    [['--frames', '4'], '“4” frames cannot be steadied over'],
    [['--range', '2001-2003'], 'None of the frames'],
    [['--out', path.join(os.tmpdir(), 'mint-not-there', 'deeper')], 'is not there. Make it first.'],
  ])('refuses %j', async (words, why) => {
    const { status, error } = await denoise(shot, path.join(top, 'refused'), ...words);
    expect([status, error]).toEqual([2, expect.stringContaining(why) as string]);
    expect(existsSync(path.join(top, 'refused'))).toBe(false);
  });

  it('refuses other formats before anything is measured', async () => {
    const folder = anew();
    mkdirSync(path.join(folder, 'beauty'));
    const frame = renderLit(2, 1, 12);
    writeFileSync(
      path.join(folder, 'beauty', 'beauty.1001.png'),
      encodePasses(frame, [{ pass: 'beauty', path: '', format: 'png', compression: 'none', type: 'half' }], { host: 'reef', samples: 1, frame: 1001 }),
    );
    const passes = [{ name: 'beauty', role: 'beauty', pattern: 'beauty/beauty.####.png' }];
    writeFileSync(path.join(folder, 'brief.json'), JSON.stringify({ shot: 'orr_010', range: '1001', passes }));
    const { status, error } = await denoise(folder, path.join(top, 'png'));
    expect([status, error]).toEqual([2, expect.stringContaining('beauty/beauty.1001.png is PNG. Render it as an EXR') as string]);
  });

  it('says in words of its own what went wrong in a thread', async () => {
    const out = path.join(top, 'full');
    mkdirSync(out);
    // A folder stands where a frame is to be made whole.
    mkdirSync(path.join(out, '.beauty.1005.exr.unfinished'));
    writeFileSync(path.join(out, '.beauty.1005.exr.unfinished', 'held'), '');
    const { status, error } = await denoise(shot, out, '--frames', '1');
    expect([status, error]).toEqual([2, expect.stringMatching(/unfinished cannot be used/) as string]);
    expect(existsSync(path.join(out, 'beauty.1005.exr'))).toBe(false);
  });

  it('refuses to write where the originals lie', async () => {
    const { status, error } = await denoise(shot, path.join(shot, 'beauty'));
    expect([status, error]).toEqual([2, expect.stringContaining('is the original') as string]);
  });
});
