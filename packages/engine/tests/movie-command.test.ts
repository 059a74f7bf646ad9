import { execFileSync } from 'node:child_process';
import { chmodSync, existsSync, mkdirSync, mkdtempSync, readdirSync, realpathSync, rmSync, truncateSync, writeFileSync } from 'node:fs';
import os from 'node:os';
import path from 'node:path';
import { encodePng, seeColour, decodeSRgb } from '@mint-tally/core';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { codecTools } from '../src/inspection/codec-tools.ts';
import { runMovie } from '../src/movies/command.ts';

/** Odd, so that colour at half the size needs one more. */
const [WIDTH, HEIGHT] = [65, 37];
const FRAMES = 9;
/** A grey that rises from frame to frame: each picture can be told from the next. */
const greyOf = (frame: number) => 40 + 20 * (frame - 1001);

let top = '';
let shot = '';
const brief = (more: object = {}) => ({
  shot: 'orr_010',
  range: `1001-${1000 + FRAMES}`,
  fps: '23.976',
  passes: [{ name: 'beauty', pattern: 'b.####.png' }],
  ...more,
});
const frame = (grey: number) =>
  encodePng({ width: WIDTH, height: HEIGHT, samplesPerPixel: 3, data: new Uint8Array(WIDTH * HEIGHT * 3).fill(grey) }, codecTools);

beforeAll(() => {
  top = realpathSync(mkdtempSync(path.join(os.tmpdir(), 'mint-movie-')));
  shot = path.join(top, 'shot');
  mkdirSync(shot);
  for (let number = 1001; number <= 1000 + FRAMES; number++) if (number !== 1004) writeFileSync(path.join(shot, `b.${number}.png`), frame(greyOf(number)));
  truncateSync(path.join(shot, 'b.1006.png'), 30);
  writeFileSync(path.join(top, 'brief.json'), JSON.stringify(brief()));
  execFileSync('ffmpeg', ['-v', 'error', '-f', 'lavfi', '-i', 'sine=frequency=440:sample_rate=44100:duration=0.2', path.join(top, 'short.wav')]);
});
afterAll(() => rmSync(top, { recursive: true, force: true }));

let made = 0;
async function movie(extension: string, ...more: string[]) {
  const out = path.join(top, 'out', `movie_${++made}.${extension}`);
  const { status, output, error } = await runMovie(
    [shot, '--brief', path.join(top, 'brief.json'), '--pass', 'beauty', '--out', out, '--json', ...more],
    () => undefined,
  );
  return { out, status, error, printed: (output === '' ? {} : JSON.parse(output)) as Record<string, unknown> };
}
const probe = (file: string, stream: string, entries: string) =>
  execFileSync('ffprobe', ['-v', 'error', '-count_frames', '-select_streams', stream, '-show_entries', `stream=${entries}`, '-of', 'csv=p=0', file], {
    encoding: 'utf8',
  }).trim();
const greyAt = (file: string, picture: number) =>
  execFileSync('ffmpeg', [
    '-v',
    'error',
    '-i',
    file,
    '-vf',
    `select=eq(n\\,${picture}),scale=1:1:in_color_matrix=bt709`,
    '-vsync',
    '0',
    '-f',
    'rawvideo',
    '-pix_fmt',
    'rgb24',
    '-',
  ])[1]!;
const leftBehind = () => readdirSync(path.join(top, 'out')).filter((name) => name.startsWith('.'));

describe('mint movie', () => {
  it.each([
    ['mp4', 'h264', []],
    ['mp4', 'hevc', ['--codec', 'hevc']],
    ['webm', 'vp9', []],
    ['mov', 'prores', []],
  ])('writes %s with %s: every frame at the exact rate, slates where there is none', async (extension, codec, more) => {
    const { out, status, error, printed } = await movie(extension, ...more);
    expect([status, error]).toEqual([0, '']);
    expect(printed).toMatchObject({ file: out, frames: FRAMES, fps: '23.976', slates: '1004,1006' });
    expect(printed.seconds).toBeCloseTo((FRAMES * 1001) / 24000, 9);
    expect(probe(out, 'v:0', 'codec_name,width,height,r_frame_rate,nb_read_frames')).toBe(`${codec},${WIDTH + 1},${HEIGHT + 1},24000/1001,${FRAMES}`);
    expect(probe(out, 'v:0', 'color_space,color_transfer,color_primaries')).toBe('bt709,bt709,bt709');
    for (const picture of [0, 1, 4, 8]) expect(Math.abs(greyAt(out, picture) - greyOf(1001 + picture))).toBeLessThanOrEqual(3);
  });

  it('shows what the viewer works out: exposure, view, and what lies behind', async () => {
    const { out } = await movie('mp4', '--exposure', '-1', '--view', 'rec709', '--range', '1005');
    const light = decodeSRgb(greyOf(1005) / 255);
    const [seen] = seeColour([light, light, light], { exposure: -1, gamma: 1, transform: 'rec709' });
    expect(Math.abs(greyAt(out, 0) - seen * 255)).toBeLessThanOrEqual(3);
  });

  it('has its sound as long as its pictures, at whatever rate the track has', async () => {
    for (const extension of ['mp4', 'mov']) {
      const { out } = await movie(extension, '--sound', path.join(top, 'short.wav'));
      expect(Number(probe(out, 'a:0', 'duration'))).toBeCloseTo((FRAMES * 1001) / 24000, 2);
    }
  });

  it('makes every frame a key frame, a size of its own, an animation for a quick look', async () => {
    const keys = await movie('mp4', '--keys', 'all', '--size', '128x96', '--burn-in', '--note', 'lamps <down> & out', '--background', 'grey');
    const flags = execFileSync('ffprobe', ['-v', 'error', '-show_entries', 'frame=key_frame', '-of', 'csv=p=0', keys.out], { encoding: 'utf8' });
    expect(flags.match(/[01]/g)).toEqual(Array.from({ length: FRAMES }, () => '1'));
    expect(probe(keys.out, 'v:0', 'width,height')).toBe('128,96');
    for (const extension of ['gif', 'webp']) expect((await movie(extension)).printed).toMatchObject({ frames: FRAMES });
  });

  it('makes a movie of a single frame, and one beside another', async () => {
    expect((await movie('webm', '--range', '1002')).printed).toMatchObject({ frames: 1, slates: '' });
    const { out } = await movie('mp4', '--beside', shot, '--range', '1001-1003');
    expect(probe(out, 'v:0', 'width,nb_read_frames')).toBe(`${2 * WIDTH},3`);
  });

  it('never writes over what is there, and leaves nothing of what failed', async () => {
    const { out } = await movie('mp4', '--range', '1001-1002');
    const again = await runMovie([shot, '--brief', path.join(top, 'brief.json'), '--pass', 'beauty', '--out', out], () => undefined);
    expect(again).toMatchObject({ status: 2, error: expect.stringContaining('is a file') as string });
    expect(leftBehind()).toEqual([]);
  });

  it('says what an encoder says that fails, and what one was that is killed', async () => {
    const tools = path.join(top, 'tools');
    mkdirSync(tools);
    const [before, program] = [process.env.PATH, path.join(tools, 'ffmpeg')];
    try {
      process.env.PATH = `${tools}:${before!}`;
      for (const [script, words] of [
        ['echo "x: No space left on device" >&2; exit 1', 'No space left on device. Make room'],
        ['kill -9 $$', 'was stopped by SIGKILL'],
      ] as const) {
        writeFileSync(program, `#!/bin/sh\n${script}\n`);
        chmodSync(program, 0o755);
        const { out, status, error } = await movie('mp4');
        expect([status, error.includes(words) ? words : error, existsSync(out)]).toEqual([2, words, false]);
      }
    } finally {
      process.env.PATH = before;
    }
    expect(leftBehind()).toEqual([]);
  });

  it.each([
    ['no pass of the order', ['--pass', 'depth'], 'orders no pass depth'],
    ['another container', ['--codec', 'vp9'], 'A .mp4 holds h264 or hevc, not vp9'],
    ['quality and rate', ['--quality', '90', '--bitrate', '20M'], 'not both'],
    ['no size', ['--size', 'large'], 'large is no size'],
    ['no colour', ['--background', 'nothing'], 'nothing is no colour'],
    ['frames nobody ordered', ['--range', '5000'], 'has none of the frames 5000'],
    ['a sound that is not there', ['--sound', '/nowhere.wav'], '/nowhere.wav is not there'],
    ['a place among the frames', ['--out', 'SHOT/x.mp4'], 'lies in the shot’s own folder'],
  ])('says what is wrong: %s', async (_, more, words) => {
    const { status, error } = await movie('mp4', ...more.map((word) => word.replace('SHOT', shot)));
    expect([status, error.includes(words) ? words : error]).toEqual([2, words]);
  });
});
