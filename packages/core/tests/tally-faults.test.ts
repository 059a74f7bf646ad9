import { describe, expect, it } from 'vitest';
import { frameSetSchema } from '../src/index.ts';
import { count, exrFrame, pngFrame, sequence, short, type VirtualFolder } from './virtual-folder.ts';
import { B, brief, changed, move } from './whole-shot.ts';

interface Fault {
  name: string;
  change: (folder: VirtualFolder) => void;
  findings: string[];
  sound?: number;
  missing?: string;
  broken?: string;
  ready?: boolean;
}

const faults: Fault[] = [
  {
    name: 'frames missing',
    change: (f) => {
      delete f[B('1003')];
      delete f[B('1004')];
    },
    findings: ['missing-frame beauty 1003-1004'],
    sound: 8,
    missing: '1003-1004',
  },
  {
    name: 'a pass missing',
    change: (f) => {
      for (const path of Object.keys(f)) if (path.startsWith('beauty')) delete f[path];
    },
    findings: ['missing-pass beauty 1001-1010'],
    sound: 0,
    missing: '1001-1010',
  },
  {
    name: 'a frame too many',
    change: (f) => {
      f[B('1011')] = exrFrame();
    },
    findings: ['unexpected-frame beauty 1011'],
    ready: true,
  },
  {
    name: 'an unplanned sequence',
    change: (f) => {
      Object.assign(
        f,
        sequence((n) => `test/preview.${n}.png`, 1, 5, pngFrame()),
      );
    },
    findings: ['unplanned-sequence null 1-5'],
    ready: true,
  },
  {
    name: 'stray files',
    change: (f) => {
      f['notes.txt'] = new Uint8Array(3);
      f['beauty/Thumbs.db'] = new Uint8Array(3);
    },
    findings: ['stray-file null'],
    ready: true,
  },
  {
    name: 'two files for one frame',
    change: (f) => {
      f['beauty/orr_010_v004_beauty_1005.exr'] = exrFrame();
    },
    findings: ['duplicate-number beauty 1005'],
    sound: 9,
  },
  { name: 'padding', change: (f) => move(f, B('1005'), B('01005')), findings: ['wrong-padding beauty 1005'], sound: 9, missing: '' },
  {
    name: 'a separator',
    change: (f) => move(f, B('1005'), 'beauty/orr_010_v004_beauty_1005.exr'),
    findings: ['wrong-name beauty 1005'],
    sound: 9,
    missing: '',
  },
  { name: 'case', change: (f) => move(f, B('1005'), 'beauty/ORR_010_v004_Beauty.1005.exr'), findings: ['wrong-name beauty 1005'], sound: 9 },
  { name: "the extension's case", change: (f) => move(f, B('1005'), 'beauty/orr_010_v004_beauty.1005.EXR'), findings: ['wrong-name beauty 1005'], sound: 9 },
  {
    name: 'another shot in the prefix',
    change: (f) => move(f, B('1005'), 'beauty/orr_020_v004_beauty.1005.exr'),
    findings: ['wrong-name beauty 1005'],
    sound: 9,
  },
  { name: 'the wrong folder', change: (f) => move(f, B('1005'), 'orr_010_v004_beauty.1005.exr'), findings: ['wrong-name beauty 1005'], sound: 9 },
  {
    name: 'another version',
    change: (f) => move(f, B('1005'), 'beauty/orr_010_v003_beauty.1005.exr'),
    findings: ['mixed-version beauty 1005'],
    sound: 9,
    missing: '',
  },
  {
    name: 'a whole older version beside',
    change: (f) => {
      Object.assign(
        f,
        sequence((n) => `beauty/orr_010_v003_beauty.${n}.exr`, 1001, 1010, exrFrame()),
      );
    },
    findings: ['unplanned-sequence null 1001-1010'],
    ready: true,
  },
  {
    name: 'a name that will not travel',
    change: (f) => {
      f['beauty/ma\u00df.txt'] = new Uint8Array(1);
    },
    findings: ['stray-file null', 'unsafe-name null'],
    ready: true,
  },
  {
    name: 'an empty file',
    change: (f) => {
      f[B('1005')] = new Uint8Array(0);
    },
    findings: ['empty-file beauty 1005'],
    sound: 9,
    broken: '1005',
  },
  {
    name: 'a file of zeros',
    change: (f) => {
      f[B('1005')] = new Uint8Array(5000);
    },
    findings: ['unwritten-file beauty 1005'],
    sound: 9,
    broken: '1005',
  },
  {
    name: 'a file cut short',
    change: (f) => {
      f[B('1005')] = f[B('1005')].slice(0, 400);
    },
    findings: ['truncated beauty 1005'],
    sound: 9,
    broken: '1005',
  },
  {
    name: 'a PNG under an EXR name',
    change: (f) => {
      f[B('1005')] = pngFrame();
    },
    findings: ['wrong-format beauty 1005'],
    sound: 9,
    broken: '1005',
  },
  {
    name: 'a PNG where EXR is ordered',
    change: (f) => {
      delete f[B('1005')];
      f['beauty/orr_010_v004_beauty.1005.png'] = pngFrame();
    },
    findings: ['wrong-format beauty 1005'],
    sound: 9,
    broken: '1005',
    missing: '',
  },
  {
    name: 'text under an EXR name',
    change: (f) => {
      f[B('1005')] = new TextEncoder().encode('<html>502 Bad Gateway</html>');
    },
    findings: ['wrong-format beauty 1005'],
    sound: 9,
    broken: '1005',
  },
  {
    name: 'bytes behind the end',
    change: (f) => {
      const whole = f[B('1005')];
      f[B('1005')] = Uint8Array.from([...whole, 1, 2, 3]);
    },
    findings: ['trailing-data beauty 1005'],
    ready: true,
  },
  {
    name: 'half size',
    change: (f) => {
      f[B('1005')] = exrFrame({ width: 4, height: 3 });
    },
    findings: ['wrong-resolution beauty 1005'],
    sound: 9,
  },
  {
    name: 'two other sizes',
    change: (f) => {
      f[B('1005')] = exrFrame({ width: 4, height: 3 });
      f[B('1006')] = exrFrame({ width: 4, height: 3 });
      f[B('1007')] = exrFrame({ width: 9 });
    },
    findings: ['wrong-resolution beauty 1005-1006', 'wrong-resolution beauty 1007'],
    sound: 7,
  },
  {
    name: 'another depth',
    change: (f) => {
      f[B('1005')] = exrFrame({ type: 'float' });
    },
    findings: ['wrong-depth beauty 1005'],
    sound: 9,
  },
  {
    name: 'no alpha',
    change: (f) => {
      f[B('1005')] = exrFrame({ channels: ['R', 'G', 'B'] });
    },
    findings: ['wrong-alpha beauty 1005'],
    sound: 9,
  },
  {
    name: 'other channels',
    change: (f) => {
      f[B('1005')] = exrFrame({ channels: ['R', 'G', 'A'] });
    },
    findings: ['wrong-channels beauty 1005'],
    sound: 9,
  },
  {
    name: 'other compression',
    change: (f) => {
      f[B('1005')] = exrFrame({ compression: 'rle' });
    },
    findings: ['wrong-compression beauty 1005'],
    ready: true,
  },
];

describe.each(faults)('a shot with $name', ({ change, findings, sound = 10, missing = '', broken = '', ready = false }) => {
  it('is told once, under its own code', () => {
    const result = count(changed(change), brief);
    expect(short(result)).toEqual(findings);
    expect(result.passes[0]).toMatchObject({ expected: 10, sound, missing: frameSetSchema.parse(missing), broken: frameSetSchema.parse(broken) });
    expect(result.passes[1].sound).toBe(10);
    expect(result.ready).toBe(ready);
  });
});
