import { spawnSync } from 'node:child_process';
import { existsSync, mkdirSync, mkdtempSync, readdirSync, readFileSync, rmSync, symlinkSync, truncateSync, writeFileSync } from 'node:fs';
import os from 'node:os';
import path from 'node:path';
import { setTimeout as sleep } from 'node:timers/promises';
import { acceptFinding, FrameSet, gateNames, isMeasured, parseBrief, type JobAsk } from '@mint-tally/core';
import {
  addWaiver,
  cancelJob,
  createShot,
  ensureProject,
  listPackages,
  loadFileFacts,
  newestTally,
  requestJob,
  saveBrief,
  type Database,
} from '@mint-tally/store';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { testConfig } from '../../../tests/support/config.ts';
import { makeDatabase } from '../../../tests/support/database.ts';
import { settleJob, takeJob } from '../../../tests/support/jobs.ts';
import { pngBytes, writeSequence } from '../../../tests/support/frames.ts';
import { InspectionPool, JobRunner, type Config } from '../src/index.ts';
import { runVerify } from '../src/packaging/verify-command.ts';

let top: string;
let database: Database;
let config: Config;
let pool: InspectionPool;
let runner: JobRunner;
let projectId: number;
const reports: string[] = [];

const makeRunner = () => new JobRunner({ database, config, pool, services: [] }, (line) => reports.push(line));

beforeAll(async () => {
  top = mkdtempSync(path.join(os.tmpdir(), 'mint-jobs-'));
  database = await makeDatabase();
  projectId = (await ensureProject(database, 'Saltglass', 'ada')).id;
  const roots = ['shots', 'packages', 'locked'].map((name) => ({ name, writable: name === 'packages' }));
  config = testConfig(top, roots, { workers: 2 });
  pool = new InspectionPool(2);
  runner = makeRunner();
  await runner.start();
});
afterAll(async () => {
  await runner.stop();
  await pool.close();
  await database.close();
  rmSync(top, { recursive: true, force: true });
});

async function makeShot(name: string, last = 1006): Promise<{ id: number; folder: string }> {
  const folder = path.join(top, 'shots', name);
  writeSequence(folder, 1001, last);
  const id = await createShot(database, { projectId, name, note: '', root: 'shots', folder: name }, 'ada');
  const brief = parseBrief({ shot: name, range: `1001-${last}`, resolution: [32, 18], passes: [{ name: 'beauty', pattern: 'beauty.####.png' }] });
  await database.transaction((inside) => saveBrief(inside, id, brief, 'ada'));
  return { id, folder };
}

const settle = (jobId: number) => settleJob(database, jobId);

const run = async (shot: number, request: JobAsk) => settle(await requestJob(database, shot, request, 'ada'));

async function acceptUnmeasured(shot: number): Promise<void> {
  const { content } = (await newestTally(database, shot))!;
  for (const gate of gateNames) {
    if (!isMeasured(gate))
      await database.transaction((inside) =>
        addWaiver(inside, shot, { subject: { kind: 'gate', gate, content }, person: 'Ada', reason: 'watched twice' }, 'ada'),
      );
  }
}

describe('a count', () => {
  it('finds what is wrong, opens only what changed, and forgets what was mended', async () => {
    const { id, folder } = await makeShot('count');
    rmSync(path.join(folder, 'beauty.1003.png'));
    truncateSync(path.join(folder, 'beauty.1005.png'), 60);
    expect((await run(id, { kind: 'count' })).state).toBe('done');
    const first = (await newestTally(database, id))!;
    expect(first.opened).toBe(5);
    expect(first.tally.passes[0]).toMatchObject({ expected: 6, sound: 4, missing: FrameSet.of([1003]), broken: FrameSet.of([1005]) });

    writeFileSync(path.join(folder, 'beauty.1003.png'), pngBytes(3));
    writeFileSync(path.join(folder, 'beauty.1005.png'), pngBytes(5));
    await run(id, { kind: 'count' });
    const second = (await newestTally(database, id))!;
    expect(second.opened).toBe(2);
    expect(second.tally).toMatchObject({ ready: true, findings: [] });
    expect(second.content).not.toBe(first.content);

    rmSync(path.join(folder, 'beauty.1006.png'));
    await run(id, { kind: 'count' });
    expect((await newestTally(database, id))!).toMatchObject({ opened: 0, tally: { passes: [{ missing: FrameSet.of([1006]) }] } });
    expect((await loadFileFacts(database, id)).has('beauty.1006.png')).toBe(false);
  });

  it('keeps a picture of every sound frame', async () => {
    const { id } = await makeShot('pictures', 1002);
    await run(id, { kind: 'count' });
    for (const file of (await loadFileFacts(database, id)).values()) {
      const proxy = path.join(config.dataFolder, 'proxies', file.sha256!.slice(0, 2), `${file.sha256}.webp`);
      expect(readFileSync(proxy).subarray(8, 12).toString()).toBe('WEBP');
    }
  });

  it('fails with a clear reason when the folder is gone', async () => {
    const { id, folder } = await makeShot('gone', 1002);
    rmSync(folder, { recursive: true });
    expect(await run(id, { kind: 'count' })).toMatchObject({ state: 'failed', error: { code: 'not-found', message: expect.stringContaining('is not there') } });
  });

  it('can be stopped, and later goes on where it was', async () => {
    const { id } = await makeShot('stopped', 3000);
    const jobId = await requestJob(database, id, { kind: 'count' }, 'ada');
    for (let i = 0; i < 400 && (await loadFileFacts(database, id)).size === 0; i++) await sleep(10);
    await cancelJob(database, jobId);
    expect((await settle(jobId)).state).toBe('cancelled');
    expect(await newestTally(database, id)).toBeNull();
    const known = (await loadFileFacts(database, id)).size;
    expect(known).toBeGreaterThan(0);
    await run(id, { kind: 'count' });
    expect((await newestTally(database, id))!).toMatchObject({ opened: 2000 - known, tally: { ready: true } });
  });

  it('is done by the next engine when the one that had it fell silent', async () => {
    const { id } = await makeShot('takeover');
    await runner.stop();
    const jobId = await requestJob(database, id, { kind: 'count' }, 'ada');
    await takeJob(database, 'an engine that dies');
    await database.change('UPDATE jobs SET lease_until = UTC_TIMESTAMP(3) - INTERVAL 1 SECOND WHERE id = ?', [jobId]);
    runner = makeRunner();
    await runner.start();
    expect((await settle(jobId)).state).toBe('done');
  });
});

describe('a package', () => {
  const request = (folder: string, root = 'packages'): JobAsk => ({ kind: 'package', root, folder, person: 'Ada' });

  it('is refused while a gate is open, and says which', async () => {
    const { id, folder } = await makeShot('open');
    rmSync(path.join(folder, 'beauty.1002.png'));
    await run(id, { kind: 'count' });
    expect(await run(id, request('open'))).toMatchObject({
      state: 'failed',
      error: {
        code: 'not-ready',
        message:
          'The package was not written. Open: count (1 finding stops it). To be closed by a person, for the frames as they are now: passes, noise, eyes.',
      },
    });
    expect(existsSync(path.join(top, 'packages', 'open'))).toBe(false);
  });

  it('is a bag that sha256sum verifies, with brief and tally beside the frames', async () => {
    const { id, folder } = await makeShot('ready');
    writeFileSync(path.join(folder, 'notes.txt'), 'not for the package');
    await run(id, { kind: 'count' });
    await acceptUnmeasured(id);
    expect(await run(id, request('out/ready_001'))).toMatchObject({ state: 'done', error: null });
    const bag = path.join(top, 'packages', 'out', 'ready_001');
    for (const manifest of ['manifest-sha256.txt', 'tagmanifest-sha256.txt']) {
      const { status, stdout } = spawnSync('sha256sum', ['-c', '--strict', manifest], { cwd: bag, encoding: 'utf8' });
      expect(stdout).not.toContain('FAILED');
      expect(status).toBe(0);
    }
    expect(readdirSync(path.join(bag, 'data')).sort()).toEqual([
      'beauty.1001.png',
      'beauty.1002.png',
      'beauty.1003.png',
      'beauty.1004.png',
      'beauty.1005.png',
      'beauty.1006.png',
      'brief.json',
      'frames.csv',
      'note.md',
      'shot.otio',
      'tally.json',
    ]);
    expect(readFileSync(path.join(bag, 'bagit.txt'), 'utf8')).toBe('BagIt-Version: 1.0\nTag-File-Character-Encoding: UTF-8\n');
    const bytes = readdirSync(path.join(bag, 'data')).reduce((sum, name) => sum + readFileSync(path.join(bag, 'data', name)).length, 0);
    expect(readFileSync(path.join(bag, 'bag-info.txt'), 'utf8')).toContain(`Payload-Oxum: ${bytes}.11\n`);
    expect(JSON.parse(readFileSync(path.join(bag, 'data', 'tally.json'), 'utf8'))).toMatchObject({ ready: true, waivers: [{ person: 'Ada' }, {}, {}] });
    expect(parseBrief(JSON.parse(readFileSync(path.join(bag, 'data', 'brief.json'), 'utf8'))).range).toBe('1001-1006');
    expect(await listPackages(database, id)).toMatchObject([{ folder: 'out/ready_001', files: 11, bytes, actor: 'Ada' }]);
    expect(readdirSync(path.join(top, 'packages', 'out'))).toEqual(['ready_001']);

    const [head, first, ...more] = readFileSync(path.join(bag, 'data', 'frames.csv'), 'utf8')
      .trim()
      .split('\r\n');
    expect([head, more.length]).toEqual(['file,pass,frame,bytes,sha256', 5]);
    expect(first).toMatch(/^beauty\.1001\.png,beauty,1001,\d+,[0-9a-f]{64}$/);
    // What the other side says of it.
    expect((await runVerify([bag, '--json'], () => undefined)).output).toContain('"valid": true');

    // The name is taken now, and stays as it is.
    expect(await run(id, request('out/ready_001'))).toMatchObject({ state: 'failed', error: { code: 'package-exists' } });
  });

  it('that got its name before anybody could note that is verified and taken for its own', async () => {
    const { id } = await makeShot('named');
    await run(id, { kind: 'count' });
    await acceptUnmeasured(id);
    await run(id, request('named_1'));
    const written = await listPackages(database, id);
    // As it stands when engine or database fall between the package's name and the end of the job.
    await database.change("UPDATE packages SET state = 'naming' WHERE shot_id = ?", [id]);
    expect(await listPackages(database, id)).toEqual([]);
    expect(await run(id, request('named_1'))).toMatchObject({ state: 'done', error: null });
    expect(await listPackages(database, id)).toEqual(written);
    expect(await run(id, request('named_1'))).toMatchObject({ state: 'failed', error: { code: 'package-exists' } });

    // Somebody has been at it meanwhile: it is not ours to vouch for.
    await database.change("UPDATE packages SET state = 'naming' WHERE shot_id = ?", [id]);
    writeFileSync(path.join(top, 'packages', 'named_1', 'data', 'beauty.1003.png'), 'painted over');
    expect(await run(id, request('named_1'))).toMatchObject({
      state: 'failed',
      error: { code: 'package-exists', message: expect.stringContaining('data/beauty.1003.png in it is not as it was written') },
    });
  });

  it('that was recorded but never got its name is written anew', async () => {
    const { id } = await makeShot('unnamed');
    await run(id, { kind: 'count' });
    await acceptUnmeasured(id);
    await run(id, request('unnamed_1'));
    await database.change("UPDATE packages SET state = 'naming' WHERE shot_id = ?", [id]);
    rmSync(path.join(top, 'packages', 'unnamed_1'), { recursive: true });
    expect((await run(id, request('unnamed_1'))).state).toBe('done');
    expect(await listPackages(database, id)).toHaveLength(1);
  });

  it('takes away what dead jobs left unfinished, and nothing else', async () => {
    const { id } = await makeShot('tidy');
    await run(id, { kind: 'count' });
    await acceptUnmeasured(id);
    const folder = path.join(top, 'packages', 'tidy');
    const other = await requestJob(database, id, { kind: 'measure', source: { from: 'folder', root: 'shots', folder: 'nowhere' } }, 'ada');
    await settle(other);
    const names = ['.a.unfinished-999999', `.b.unfinished-${other}-0a1b`, '.c.unfinished-x', 'd.unfinished-5', '.keep'];
    for (const name of names) mkdirSync(path.join(folder, name), { recursive: true });
    await run(id, request('tidy/e'));
    expect(readdirSync(folder).sort()).toEqual(['.c.unfinished-x', '.keep', 'd.unfinished-5', 'e']);
  });

  it('is not written behind a link that leads out', async () => {
    const { id } = await makeShot('linked');
    await run(id, { kind: 'count' });
    await acceptUnmeasured(id);
    mkdirSync(path.join(top, 'beyond'));
    symlinkSync(path.join(top, 'beyond'), path.join(top, 'packages', 'way-out'));
    expect(await run(id, request('way-out/deep/package'))).toMatchObject({ state: 'failed', error: { code: 'outside-root' } });
    expect(readdirSync(path.join(top, 'beyond'))).toEqual([]);
  });

  it('accepts a waived finding, until more joins it; and no gate whose frames changed', async () => {
    const { id, folder } = await makeShot('waived');
    rmSync(path.join(folder, 'beauty.1002.png'));
    await run(id, { kind: 'count' });
    const [finding] = (await newestTally(database, id))!.tally.findings;
    await database.transaction((inside) => addWaiver(inside, id, { subject: acceptFinding(finding), person: 'Ada', reason: 'cut in the edit' }, 'ada'));
    await acceptUnmeasured(id);
    expect((await run(id, request('waived_1'))).state).toBe('done');
    writeFileSync(path.join(folder, 'beauty.1004.png'), pngBytes(99));
    const refused = await run(id, request('waived_2'));
    expect(refused).toMatchObject({
      state: 'failed',
      error: {
        message:
          'The package was not written. Since the count before: 1 file replaced (beauty.1004.png). To be closed by a person, for the frames as they are now: passes, noise, eyes.',
      },
    });
    // The page shows the count that refused, so it says the same.
    expect((await newestTally(database, id))!.changes?.replaced).toEqual({ count: 1, paths: ['beauty.1004.png'] });
    rmSync(path.join(folder, 'beauty.1003.png'));
    const message = expect.stringMatching(/Since the count before: 1 file gone \(beauty\.1003\.png\)\. Open: count \(1 finding stops it\)\./);
    expect(await run(id, request('waived_2'))).toMatchObject({ state: 'failed', error: { message } });
  });

  it.each([
    ['locked', 'x', 'not-writable'],
    ['nowhere', 'x', 'unknown-root'],
    ['packages', '../../outside', 'outside-root'],
  ])('is not written to %s/%s', async (root, folder, code) => {
    const { id } = await makeShot(`refused-${code}`, 1001);
    expect(await run(id, request(folder, root))).toMatchObject({ state: 'failed', error: { code } });
    expect(existsSync(path.join(top, 'outside'))).toBe(false);
  });
});

it('reports nothing unexpected', () => {
  expect(reports).toEqual([]);
});
