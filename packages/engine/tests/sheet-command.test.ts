import { mkdirSync, mkdtempSync, readFileSync, readdirSync, realpathSync, rmSync, truncateSync, writeFileSync } from 'node:fs';
import os from 'node:os';
import path from 'node:path';
import { encodePng, PAGE_WIDTH } from '@mint-tally/core';
import sharp from 'sharp';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { runSheet } from '../src/contact-sheets/command.ts';
import { codecTools } from '../src/inspection/codec-tools.ts';

const [WIDTH, HEIGHT] = [64, 36];
const greyOf = (frame: number) => 60 + 20 * (frame - 1001);
let top = '';
let shot = '';

beforeAll(() => {
  top = realpathSync(mkdtempSync(path.join(os.tmpdir(), 'mint-sheet-')));
  shot = path.join(top, 'shot');
  mkdirSync(shot);
  for (const frame of [1001, 1002, 1004, 1005, 1006]) {
    const data = new Uint8Array(WIDTH * HEIGHT * 3).fill(greyOf(frame));
    writeFileSync(path.join(shot, `b.${frame}.png`), encodePng({ width: WIDTH, height: HEIGHT, samplesPerPixel: 3, data }, codecTools));
  }
  truncateSync(path.join(shot, 'b.1005.png'), 30);
  writeFileSync(
    path.join(top, 'brief.json'),
    JSON.stringify({
      shot: 'orr_010',
      range: '1001-1006',
      fps: '24',
      resolution: [WIDTH, HEIGHT],
      passes: ['b', 'glow'].map((name) => ({ name, pattern: `${name}.####.png` })),
    }),
  );
});
afterAll(() => rmSync(top, { recursive: true, force: true }));

async function sheet(name: string, ...more: string[]) {
  const out = path.join(top, 'out', name);
  const { status, output, error } = await runSheet([shot, '--brief', path.join(top, 'brief.json'), '--out', out, '--json', ...more], () => undefined);
  return { out, status, error, printed: (output === '' ? {} : JSON.parse(output)) as Record<string, unknown> };
}

describe('a contact sheet', () => {
  it('as PNG shows each frame in its place, and slates for what is not there or cannot be read', async () => {
    const { out, status, printed } = await sheet('a.png', '--columns', '3');
    expect(status).toBe(0);
    expect(printed).toMatchObject({ pictures: 6, pages: 1, slates: [{ pass: 'b', frames: '1003,1005' }] });
    const { data, info } = await sharp(out).raw().toBuffer({ resolveWithObject: true });
    expect([info.width, info.channels]).toEqual([Math.round(PAGE_WIDTH * 3), 3]);
    const at = (x: number, y: number) => [...data.subarray((y * info.width + x) * 3, (y * info.width + x) * 3 + 3)];
    const greys = new Set(Array.from({ length: 3 }, (_, column) => at(Math.round(info.width * ((column + 0.5) / 3)), Math.round(info.height * 0.3)).join(' ')));
    // The slate of 1003 is grey of its own, with letters in its middle.
    expect(greys).toContain(Array(3).fill(greyOf(1001)).join(' '));
    expect(greys).toContain(Array(3).fill(greyOf(1002)).join(' '));
    expect(at(5, 5)).toEqual([28, 28, 28]);
  });

  it('as PDF has pages, pictures and letters; a pass without a file is slates in the ordered size', async () => {
    const { out, status, printed } = await sheet('a.pdf', '--passes', 'b,glow', '--ground', 'light', '--columns', '1', '--most', '3', '--note', 'für Ivo');
    expect(status).toBe(0);
    expect(printed).toMatchObject({
      pictures: 6,
      slates: [{ pass: 'glow', frames: '1001,1004,1006' }],
    });
    const text = readFileSync(out, 'latin1');
    expect(text.startsWith('%PDF-')).toBe(true);
    expect(text.trimEnd().endsWith('%%EOF')).toBe(true);
    expect(text.match(/\/Type \/Page\b/g)).toHaveLength(printed.pages as number);
    expect(text.match(/\/Subtype \/Image/g)).toHaveLength(6);
    expect(text).toContain('/FontFile');
  });

  it('is not written over a file, nor among the frames, nor of a pass that is not ordered; nothing is left of it', async () => {
    expect((await sheet('a.png')).error).toContain('There is a file a.png already.');
    expect((await sheet('../shot/x.png')).error).toContain('in the shot’s own folder');
    expect((await sheet('b.png', '--passes', 'matte')).error).toContain('The brief orders no pass matte.');
    expect((await sheet('b.gif')).error).toContain('is no .png or .pdf');
    expect((await sheet('b.png', '--columns', '40')).error).toContain('columns: At most 16 columns.');
    expect((await sheet('b.png', '--exposure', '-1', '--background', 'mauve')).error).toContain('mauve is no colour');
    expect(readdirSync(path.join(top, 'out')).sort()).toEqual(['a.pdf', 'a.png']);
  });
});
