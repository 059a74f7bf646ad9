import { spawnSync } from 'node:child_process';
import { mkdirSync, mkdtempSync, rmSync, symlinkSync, truncateSync, writeFileSync } from 'node:fs';
import os from 'node:os';
import path from 'node:path';
import zlib from 'node:zlib';
import { encodePng } from '@mint-tally/core';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { mayPass, withRetries } from '../src/files/retry.ts';
import { accessError } from '@mint-tally/disk';
import { codecTools } from '../src/inspection/codec-tools.ts';
import { projectFolder, servicesFolder } from '../src/index.ts';

const sound = encodePng({ width: 32, height: 18, samplesPerPixel: 3, data: Uint8Array.from({ length: 32 * 18 * 3 }, (_, i) => (i * 37) & 0xff) }, codecTools);
let folder: string;

interface Report {
  passes: { sound: number; expected: number; broken: string; missing: string }[];
  findings: { code: string; frames: string; message: string; files: string[] }[];
}

/** Counts the folder with a bounded heap and little time, as another process. */
function check(target: string, extension: string): Report {
  const { stdout, stderr, status, signal } = spawnSync('node', ['--max-old-space-size=400', path.join(servicesFolder(), 'check.js'), target, '--json'], {
    encoding: 'utf8',
    timeout: 90_000,
    env: { ...process.env, MINT_TALLY_HOME: projectFolder() },
  });
  expect({ stderr, signal, status }, extension).toEqual({ stderr: '', signal: null, status: 1 });
  return JSON.parse(stdout) as Report;
}

function chunk(type: string, data: Uint8Array): Buffer {
  const body = Buffer.concat([Buffer.from(type, 'latin1'), data]);
  const out = Buffer.alloc(body.length + 8);
  out.writeUInt32BE(data.length, 0);
  body.copy(out, 4);
  out.writeUInt32BE(codecTools.crc32(body), body.length + 4);
  return out;
}

function pngHeader(width: number, height: number): Buffer {
  const data = Buffer.alloc(13);
  data.writeUInt32BE(width, 0);
  data.writeUInt32BE(height, 4);
  data.set([8, 2, 0, 0, 0], 8);
  return Buffer.concat([Buffer.from([0x89, 0x50, 0x4e, 0x47, 0x0d, 0x0a, 0x1a, 0x0a]), chunk('IHDR', data)]);
}

function exrHeader(attributes: [string, string, number[]][]): number[] {
  const text = (value: string) => [...Buffer.from(value), 0];
  return [0x76, 0x2f, 0x31, 0x01, 2, 0, 0, 0, ...attributes.flatMap(([name, type, value]) => [...text(name), ...text(type), ...int(value.length), ...value])];
}

function int(...values: number[]): number[] {
  return values.flatMap((value) => [value & 255, (value >>> 8) & 255, (value >>> 16) & 255, (value >>> 24) & 255]);
}

const plainExr = (right: number, bottom: number): [string, string, number[]][] => [
  ['channels', 'chlist', [0x52, 0, ...int(1, 0, 1, 1), 0]],
  ['compression', 'compression', [0]],
  ['dataWindow', 'box2i', int(0, 0, right, bottom)],
  ['displayWindow', 'box2i', int(0, 0, right, bottom)],
  ['lineOrder', 'lineOrder', [0]],
  ['pixelAspectRatio', 'float', int(0x3f800000)],
];

/** Files that are made to keep a reader busy, or to fill its memory. */
const traps: Record<string, [extension: string, bytes: () => Uint8Array]> = {
  'a PNG of terabytes': [
    'png',
    () => Buffer.concat([pngHeader(0x7fffffff, 0x7fffffff), chunk('IDAT', zlib.deflateSync(Buffer.alloc(1000))), chunk('IEND', Buffer.alloc(0))]),
  ],
  'a small PNG that inflates without end': [
    'png',
    () => Buffer.concat([pngHeader(32, 18), chunk('IDAT', zlib.deflateSync(Buffer.alloc(400 << 20))), chunk('IEND', Buffer.alloc(0))]),
  ],
  'an EXR of terabytes': ['exr', () => Uint8Array.from([...exrHeader(plainExr(0x3fffffff, 0x3fffffff)), 0, ...new Array<number>(64).fill(1)])],
  'an EXR whose chunks point at themselves': [
    'exr',
    () => {
      const header = [...exrHeader(plainExr(3, 3)), 0];
      const table = Array.from({ length: 4 }, () => [...int(header.length), 0, 0, 0, 0]).flat();
      return Uint8Array.from([...header, ...table, ...new Array<number>(64).fill(0)]);
    },
  ],
  'an EXR with an attribute of a gigabyte': [
    'exr',
    () => Uint8Array.from([...exrHeader([]), ...Buffer.from('notes\0string\0'), ...int(0x40000000), ...new Array<number>(64).fill(65)]),
  ],
  'a TIFF whose directories go round in a circle': [
    'tif',
    () => {
      const field = (tag: number, type: number, value: number) => [tag & 255, tag >> 8, type, 0, ...int(1, value)];
      const fields = [
        field(256, 4, 2),
        field(257, 4, 2),
        field(258, 3, 8),
        field(259, 3, 1),
        field(262, 3, 1),
        field(273, 4, 200),
        field(278, 4, 2),
        field(279, 4, 4),
      ];
      const bytes = [0x49, 0x49, 42, 0, ...int(8), fields.length, 0, ...fields.flat(), ...int(8)];
      return Uint8Array.from([...bytes, ...new Array<number>(300).fill(9)]);
    },
  ],
  'a TIFF of two billion fields': [
    'tif',
    () => Uint8Array.from([0x49, 0x49, 43, 0, 8, 0, 0, 0, ...int(16, 0), ...int(0x7fffffff, 0), ...new Array<number>(64).fill(3)]),
  ],
  'a JPEG of 65,535 lines in a hundred bytes': [
    'jpg',
    () => Uint8Array.from([0xff, 0xd8, 0xff, 0xc2, 0, 11, 8, 0xff, 0xff, 0xff, 0xff, 1, 1, 0x11, 0, ...new Array<number>(100).fill(0xff), 0xd9]),
  ],
  'a DPX of terabytes': [
    'dpx',
    () => {
      const bytes = Buffer.alloc(2048);
      bytes.write('SDPX');
      bytes.writeUInt32BE(2048, 4);
      bytes.writeUInt16BE(1, 770);
      bytes.writeUInt32BE(1 << 20, 772);
      bytes.writeUInt32BE(1 << 20, 776);
      bytes.set([50, 0, 0, 16], 800);
      bytes.writeUInt32BE(2048, 808);
      return bytes;
    },
  ],
  'a TGA whose packets run over': [
    'tga',
    () => Uint8Array.from([0, 0, 10, 0, 0, 0, 0, 0, 0, 0, 0, 0, 0xff, 0xff, 0xff, 0xff, 24, 0, ...new Array<number>(500).fill(0xff)]),
  ],
};

beforeAll(() => {
  folder = mkdtempSync(path.join(os.tmpdir(), 'mint-hostile-'));
});

afterAll(() => {
  rmSync(folder, { recursive: true, force: true });
});

describe('a folder with traps', () => {
  it.each(Object.entries(traps))('counts the others beside %s', (name, [extension, bytes]) => {
    const target = path.join(folder, name.replace(/[^a-zA-Z]+/g, '-'));
    mkdirSync(target);
    for (let frame = 1001; frame <= 1004; frame++) writeFileSync(path.join(target, `good.${frame}.png`), sound);
    for (let frame = 1001; frame <= 1003; frame++) writeFileSync(path.join(target, `trap.${frame}.${extension}`), bytes());
    const report = check(target, extension);
    const blockers = report.findings.filter(({ code }) => code === 'truncated' || code === 'corrupt');
    expect(blockers.map(({ frames }) => frames)).toEqual(['1001-1003']);
    expect(report.passes.map(({ sound }) => sound).sort()).toEqual([0, 4]);
  });

  it('counts the others beside pipes, devices, links and names that are no text', () => {
    const target = path.join(folder, 'unlucky');
    mkdirSync(path.join(target, 'below'), { recursive: true });
    for (let frame = 1001; frame <= 1012; frame++) writeFileSync(path.join(target, `beauty.${frame}.png`), sound);
    const at = (name: string) => path.join(target, name);
    for (const frame of [1002, 1003, 1004, 1005]) rmSync(at(`beauty.${frame}.png`));
    expect(spawnSync('mkfifo', [at('beauty.1002.png')]).status).toBe(0);
    symlinkSync('/dev/zero', at('beauty.1003.png'));
    symlinkSync(at('nothing.png'), at('beauty.1004.png'));
    symlinkSync(at('beauty.1005.png'), at('beauty.1005.png'));
    symlinkSync(target, at('below/round'));
    writeFileSync(Buffer.concat([Buffer.from(`${target}/frame`), Buffer.from([0xff, 0xfe]), Buffer.from('.1001.png')]), sound);
    writeFileSync(at(`${'n'.repeat(246)}.1001.png`), sound);
    truncateSync(at('beauty.1009.png'), 40);
    const report = check(target, 'unlucky');
    const told = report.findings.map(({ code, frames }) => `${code} ${frames}`.trim());
    expect(told).toContain('unreadable 1002-1005');
    expect(told).toContain('truncated 1009');
    expect(report.findings.find(({ code, message }) => code === 'unsafe-name' && message.includes('no text'))).toBeDefined();
    expect(report.passes[0]).toMatchObject({ expected: 12, sound: 7, broken: '1002-1005,1009' });
  });
});

describe('a share that stumbles', () => {
  const stumble = (code: string) => Object.assign(new Error(code), { code });

  it('is asked again, three times in all', () => {
    let tries = 0;
    const read = () => {
      tries++;
      if (tries < 3) throw accessError(stumble('EIO'), 'beauty.1001.png');
      return 'bytes';
    };
    expect(withRetries(read)).toBe('bytes');
    tries = -10;
    expect(() => withRetries(read)).toThrow(/EIO/);
    expect(tries).toBe(-7);
  });

  it('is not asked again for what will not pass', () => {
    let tries = 0;
    expect(() =>
      withRetries(() => {
        tries++;
        throw accessError(stumble('EACCES'), 'a');
      }),
    ).toThrow(/EACCES/);
    expect(tries).toBe(1);
    expect(mayPass(stumble('ESTALE'))).toBe(true);
    expect(mayPass('EIO')).toBe(false);
  });
});
