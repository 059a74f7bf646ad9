import { spawnSync } from 'node:child_process';
import { mkdirSync, mkdtempSync, rmSync, symlinkSync, truncateSync, writeFileSync } from 'node:fs';
import os from 'node:os';
import path from 'node:path';
import { encodePng } from '@mint-tally/core';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { codecTools } from '../src/inspection/codec-tools.ts';
import { projectFolder, servicesFolder } from '../src/index.ts';

const frame = encodePng({ width: 32, height: 18, samplesPerPixel: 3, data: Uint8Array.from({ length: 32 * 18 * 3 }, (_, i) => (i * 37) & 0xff) }, codecTools);
let folder: string;

/** Runs the command as a person would: its own process, its exit status, its two streams. */
function check(...argv: string[]) {
  const { status, stdout, stderr } = spawnSync('node', [path.join(servicesFolder(), 'check.js'), ...argv], {
    encoding: 'utf8',
    env: { ...process.env, MINT_TALLY_HOME: projectFolder() },
  });
  return { status, stdout, stderr };
}

function place(name: string, first = 1001, last = 1012): string {
  const target = path.join(folder, name);
  mkdirSync(target, { recursive: true });
  for (let number = first; number <= last; number++) writeFileSync(path.join(target, `beauty.${number}.png`), frame);
  return target;
}

beforeAll(() => {
  folder = mkdtempSync(path.join(os.tmpdir(), 'mint-check-'));
});

afterAll(() => {
  rmSync(folder, { recursive: true, force: true });
});

describe('mint check', () => {
  it.each(['names', 'headers', 'full'])('ends with 0 for a whole sequence at level %s', (level) => {
    const { status, stdout } = check(place(`good-${level}`), '--json', '--level', level);
    expect(status).toBe(0);
    expect(JSON.parse(stdout)).toEqual({
      ready: true,
      passes: [{ name: 'beauty.####.png', expected: 12, sound: 12, missing: '', broken: '', unexpected: '' }],
      findings: [],
    });
  });

  it('ends with 1 and names the frames when a gap and a cut file block the handoff', () => {
    const target = place('bad');
    rmSync(path.join(target, 'beauty.1005.png'));
    truncateSync(path.join(target, 'beauty.1009.png'), frame.length >> 1);
    const { status, stdout } = check(target, '--json');
    expect(status).toBe(1);
    const report = JSON.parse(stdout);
    expect(report.passes[0]).toMatchObject({ expected: 12, sound: 10, missing: '1005', broken: '1009' });
    expect(report.findings).toEqual([
      { code: 'missing-frame', severity: 'blocker', pass: 'beauty.####.png', frames: '1005', files: [], message: '1 frame has no file.' },
      expect.objectContaining({ code: 'truncated', frames: '1009', files: ['beauty.1009.png'] }),
    ]);
  });

  it('counts against a brief', () => {
    const target = place('ordered');
    const brief = path.join(folder, 'brief.json');
    writeFileSync(
      brief,
      JSON.stringify({ shot: 's', range: '1001-1014', resolution: [32, 18], passes: [{ name: 'beauty', pattern: 'beauty.####.png', depth: 8 }] }),
    );
    const { status, stdout } = check(target, '--brief', brief, '--json');
    expect(status).toBe(1);
    expect(JSON.parse(stdout).passes).toEqual([{ name: 'beauty', expected: 14, sound: 12, missing: '1013-1014', broken: '', unexpected: '' }]);
  });

  it('never reads through a link that leads out of the folder', () => {
    const target = place('linked');
    const secret = path.join(folder, 'secret.png');
    writeFileSync(secret, frame);
    rmSync(path.join(target, 'beauty.1003.png'));
    symlinkSync(secret, path.join(target, 'beauty.1003.png'));
    const report = JSON.parse(check(target, '--json').stdout);
    expect(report.findings).toEqual([expect.objectContaining({ code: 'unreadable', frames: '1003' })]);
  });

  it.each([
    [[], /No folder was named/],
    [['/nowhere/at/all'], /is not there/],
    [['.', '--level', 'deep'], /no level called deep/],
    [['.', '--brief', '/nowhere.json'], /nowhere\.json is not there/],
  ])('ends with 2 and one clear line for %j', (argv, message) => {
    const { status, stdout, stderr } = check(...argv);
    expect(status).toBe(2);
    expect(stdout).toBe('');
    expect(stderr.trim().split('\n')).toHaveLength(1);
    expect(stderr).toMatch(message);
  });

  it('ends with 2 where there is nothing to count', () => {
    const target = path.join(folder, 'nothing');
    mkdirSync(target);
    expect(check(target)).toMatchObject({ status: 2, stderr: expect.stringContaining('no numbered frames') });
  });
});
