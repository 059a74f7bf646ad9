import { existsSync, mkdirSync, mkdtempSync, readdirSync, readFileSync, realpathSync, rmSync, writeFileSync } from 'node:fs';
import { spawnSync } from 'node:child_process';
import os from 'node:os';
import path from 'node:path';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { pngBytes } from '../../../tests/support/frames.ts';
import { runPackage } from '../src/packaging/package-command.ts';
import { runVerify } from '../src/packaging/verify-command.ts';

let top = '';
let shot = '';
const brief = {
  ...{ shot: 'orr_010', range: '1001-1006', fps: '24' },
  passes: [
    { name: 'beauty', pattern: 'beauty/b.####.png' },
    { name: 'depth', pattern: 'd.####.png', range: '1003-1006' },
  ],
};
beforeAll(() => {
  top = realpathSync(mkdtempSync(path.join(os.tmpdir(), 'mint-package-')));
  shot = path.join(top, 'shot');
  mkdirSync(path.join(shot, 'beauty'), { recursive: true });
  for (let frame = 1001; frame <= 1006; frame++) {
    writeFileSync(path.join(shot, `beauty/b.${frame}.png`), pngBytes(frame));
    if (frame > 1002) writeFileSync(path.join(shot, `d.${frame}.png`), pngBytes(frame + 500));
  }
  writeFileSync(path.join(shot, 'notes.txt'), 'not handed over');
  writeFileSync(path.join(top, 'brief.json'), JSON.stringify(brief));
});
afterAll(() => rmSync(top, { recursive: true, force: true }));

let made = 0;
async function pack(...more: string[]) {
  const out = path.join(top, 'out', `package_${++made}`);
  const { status, output, error } = await runPackage([shot, '--brief', path.join(top, 'brief.json'), '--out', out, '--json', ...more], () => undefined);
  return { out, status, error, printed: (output === '' ? {} : JSON.parse(output)) as Record<string, unknown> };
}
const verify = async (folder: string) =>
  JSON.parse((await runVerify([folder, '--json'], () => undefined)).output) as { valid: boolean; problems: { code: string }[]; tally: { ready: boolean } };
const framesIn = (folder: string) =>
  readdirSync(path.join(folder, 'data'), { recursive: true, encoding: 'utf8' })
    .filter((name) => name.endsWith('.png'))
    .sort();

describe('mint package', () => {
  it('makes what sha256sum and mint verify find whole', async () => {
    const { out, status, printed } = await pack();
    expect(status).toBe(0);
    expect(printed).toMatchObject({ folder: out, files: 15, volumes: 1 });
    expect(spawnSync('sha256sum', ['-c', '--quiet', 'manifest-sha256.txt'], { cwd: out }).status).toBe(0);
    expect(await verify(out)).toMatchObject({ valid: true, tally: { ready: true } });
    expect(framesIn(out)).toHaveLength(10);
  });

  it('takes the passes and frames that are named', async () => {
    const { out } = await pack('--passes', 'beauty', '--range', '1002-1003');
    expect(framesIn(out)).toEqual(['beauty/b.1002.png', 'beauty/b.1003.png']);
    expect(JSON.parse(readFileSync(path.join(out, 'data/brief.json'), 'utf8'))).toMatchObject({ range: '1002-1003', passes: [{ name: 'beauty' }] });
    expect(await verify(out)).toMatchObject({ valid: true, tally: { ready: true } });
  });

  it('splits into volumes at frame borders, each of them whole in itself', async () => {
    const size = readFileSync(path.join(shot, 'beauty/b.1003.png')).length;
    const { out, printed } = await pack('--volume-size', `${Math.round(size * 4.5)}B`);
    expect(printed).toMatchObject({ volumes: 3 });
    const volumes = ['volume_1', 'volume_2', 'volume_3'].map((name) => path.join(out, name));
    expect(volumes.map(framesIn)).toEqual([
      ['beauty/b.1001.png', 'beauty/b.1002.png', 'beauty/b.1003.png', 'd.1003.png'],
      ['beauty/b.1004.png', 'beauty/b.1005.png', 'd.1004.png', 'd.1005.png'],
      ['beauty/b.1006.png', 'd.1006.png'],
    ]);
    for (const volume of volumes) expect(await verify(volume)).toMatchObject({ valid: true, tally: { ready: true } });
    rmSync(volumes[1]!, { recursive: true });
    expect((await verify(volumes[0]!)).problems.map(({ code }) => code)).toEqual(['missing-volume']);
  });

  it('makes one tar of it, that is verified where it is unpacked', async () => {
    const { out, printed } = await pack('--tar', '--sums', 'sha512');
    expect(printed.folder).toBe(`${out}.tar`);
    spawnSync('tar', ['-xf', `${out}.tar`], { cwd: path.dirname(out) });
    expect(await verify(out)).toMatchObject({ valid: true, tally: { ready: true } });
    expect(readdirSync(out)).toContain('manifest-sha512.txt');
  });

  it('tells the compositor what was ordered, and what was waived', async () => {
    const { out } = await pack();
    const note = readFileSync(path.join(out, 'data/note.md'), 'utf8');
    expect(note).toMatch(/^# orr_010: note to the compositor\n\nFrames 1001-1006 \(6\), 24 frames a second\./);
    expect(note).toContain('- **depth**: frames 1003-1006.');
  });

  it('writes nothing that is not ready, unless somebody answers for it', async () => {
    const lost = path.join(shot, 'beauty/b.1004.png');
    const bytes = readFileSync(lost);
    rmSync(lost);
    try {
      const refused = await pack();
      expect([refused.status, refused.printed.ready, existsSync(refused.out)]).toEqual([1, false, false]);
      const { out, status } = await pack('--waive', 'Ada: the cut does not need it');
      expect(status).toBe(0);
      const { waivers } = JSON.parse(readFileSync(path.join(out, 'data/tally.json'), 'utf8')) as { waivers: unknown[] };
      expect(waivers).toMatchObject([{ person: 'Ada', reason: 'the cut does not need it', subject: { code: 'missing-frame' } }]);
      expect((await runVerify([out], () => undefined)).status).toBe(0);
    } finally {
      writeFileSync(lost, bytes);
    }
  });

  it.each([
    [['--passes', 'glow'], 'orders no pass glow'],
    [['--range', '2000'], 'orders none of 2000'],
    [['--volume-size', 'much'], 'is no size of a volume'],
    [['--waive', 'because'], 'names who answers for it'],
    [['--tar', '--link'], 'A tar holds copies'],
    [['--sums', 'crc32'], 'crc32 are no checksums'],
  ])('refuses %j', async (more, says) => {
    const { status, error, out } = await pack(...more);
    expect([status, error, existsSync(out)]).toEqual([2, expect.stringContaining(says) as string, false]);
  });

  it('writes neither into the shot’s own folder nor over anything', async () => {
    const into = async (out: string) => runPackage([shot, '--brief', path.join(top, 'brief.json'), '--out', out], () => undefined);
    expect(await into(path.join(shot, 'package'))).toMatchObject({ status: 2, error: expect.stringContaining('lies in the shot’s own folder') as string });
    expect(await into(top)).toMatchObject({ status: 2, error: expect.stringContaining('is there already') as string });
    expect(readdirSync(shot).sort()).toEqual(['beauty', 'd.1003.png', 'd.1004.png', 'd.1005.png', 'd.1006.png', 'notes.txt']);
  });
});
