import { execFileSync } from 'node:child_process';
import {
  cpSync,
  existsSync,
  mkdirSync,
  mkdtempSync,
  readdirSync,
  readFileSync,
  realpathSync,
  renameSync,
  rmSync,
  statSync,
  symlinkSync,
  utimesSync,
  writeFileSync,
} from 'node:fs';
import os from 'node:os';
import path from 'node:path';
import { setTimeout as sleep } from 'node:timers/promises';
import { parseBrief, SET_ASIDE, type MergeRule, type MergeStep, type MergeWay } from '@mint-tally/core';
import { InspectionPool, JobRunner, type Config } from '@mint-tally/engine';
import {
  createMerge,
  createShot,
  ensureProject,
  findJob,
  findMerge,
  listMergeSteps,
  mergeRequestSchema,
  requestJob,
  saveBrief,
  type Database,
  type Job,
} from '@mint-tally/store';
import { afterAll, beforeAll, beforeEach, describe, expect, it } from 'vitest';
import { testConfig } from '../../../tests/support/config.ts';
import { makeDatabase } from '../../../tests/support/database.ts';
import { pngBytes } from '../../../tests/support/frames.ts';

let top: string;
let database: Database;
let config: Config;
let pool: InspectionPool;
let runner: JobRunner;
let projectId: number;
let shots = 0;
let shot: { id: number; name: string; folder: string };

const startRunner = async () => {
  runner = new JobRunner({ database, config, pool, services: [] }, () => undefined);
  await runner.start();
};

beforeAll(async () => {
  top = realpathSync(mkdtempSync(path.join(os.tmpdir(), 'mint-merge-')));
  database = await makeDatabase();
  config = testConfig(top, [
    { name: 'shots', writable: true },
    { name: 'disks', writable: true },
  ]);
  projectId = (await ensureProject(database, 'Saltglass', 'ada')).id;
  pool = new InspectionPool(1);
  await startRunner();
});
afterAll(async () => {
  await runner.stop();
  await pool.close();
  await database.close();
  rmSync(top, { recursive: true, force: true });
});
beforeEach(async () => {
  rmSync(path.join(top, 'disks'), { recursive: true, force: true });
  mkdirSync(path.join(top, 'disks'));
  const name = `shot${++shots}`;
  const folder = path.join(top, 'shots', name);
  mkdirSync(folder);
  const id = await createShot(database, { projectId, name, note: '', root: 'shots', folder: name }, 'ada');
  await database.transaction((inside) =>
    saveBrief(inside, id, parseBrief({ shot: name, range: '1001-1012', passes: [{ name: 'beauty', pattern: 'beauty/f.####.png' }] }), 'ada'),
  );
  shot = { id, name, folder };
});

const disk = (name: string) => path.join(top, 'disks', name);
/** Writes frames into a disk's folder; the seed tells their content. */
function write(folder: string, frames: number[], seed = (frame: number) => frame, name = (frame: number) => `beauty/f.${frame}.png`): void {
  for (const frame of frames) {
    const file = path.join(folder, name(frame));
    mkdirSync(path.dirname(file), { recursive: true });
    writeFileSync(file, pngBytes(seed(frame)));
  }
}
const range = (first: number, last: number) => Array.from({ length: last - first + 1 }, (_, i) => first + i);
const merged = () => (existsSync(path.join(shot.folder, 'beauty')) ? readdirSync(path.join(shot.folder, 'beauty')).sort() : []);
const names = (frames: number[]) => frames.map((frame) => `f.${frame}.png`);
const isSeed = (frame: number, seed: number) => readFileSync(path.join(shot.folder, `beauty/f.${frame}.png`)).equals(Buffer.from(pngBytes(seed)));

async function settle(id: number): Promise<Job> {
  for (let i = 0; i < 600; i++) {
    const job = await findJob(database, id);
    if (job && job.state !== 'queued' && job.state !== 'running') return job;
    await sleep(20);
  }
  throw new Error('the merge does not end');
}

const act = async (merge: number, action: 'preview' | 'run' | 'undo') => settle(await requestJob(database, shot.id, { kind: 'merge', merge, action }, 'ada'));

async function preview(
  sources: string[],
  { rule = 'newer', way = 'copy', byHand = [] }: { rule?: MergeRule; way?: MergeWay; byHand?: object[] } = {},
): Promise<{ id: number; steps: MergeStep[]; job: Job }> {
  const id = await createMerge(
    database,
    shot.id,
    mergeRequestSchema.parse({ sources: sources.map((folder) => ({ root: 'disks', folder })), rule, way, byHand }),
    'ada',
  );
  const job = await act(id, 'preview');
  return { id, job, steps: await listMergeSteps(database, id) };
}

describe('three folders with overlap and gap', () => {
  beforeEach(() => {
    write(disk('bowline'), range(1001, 1004));
    // 1004 is the same on both, 1005 differs on the next.
    write(disk('reef'), range(1004, 1007));
    write(
      disk('clove'),
      [1005, 1009, 1010],
      (frame) => (frame === 1005 ? 77 : frame),
      (frame) => `f.${String(frame).padStart(6, '0')}.png`,
    );
    utimesSync(path.join(disk('clove'), 'f.001005.png'), new Date(), new Date(Date.now() + 5000));
  });

  it('are previewed: what comes from where, what is the same, what differs, what is missing', async () => {
    const { id, steps } = await preview(['bowline', 'reef', 'clove']);
    expect(steps.map(({ frame, from, renamed }) => `${frame} ${from!.source}${renamed ? ' renamed' : ''}`)).toEqual([
      '1001 1',
      '1002 1',
      '1003 1',
      '1004 1',
      '1005 3 renamed',
      '1006 2',
      '1007 2',
      '1009 3 renamed',
      '1010 3 renamed',
    ]);
    expect(steps[3]).toMatchObject({ why: 'the same bytes', same: [{ source: 2, path: 'beauty/f.1004.png' }] });
    expect(steps[4]).toMatchObject({ why: 'newer', others: [{ source: 2, path: 'beauty/f.1005.png' }] });
    expect((await findMerge(database, id))!.findings).toEqual({ gaps: [{ pass: 'beauty', frames: '1008,1011-1012' }], strays: [], strayCount: 0 });
    expect(merged()).toEqual([]);
  });

  it.each<MergeWay>(['copy', 'move', 'link'])('become one sequence by %s, and are taken back', async (way) => {
    const before = listAll(path.join(top, 'disks'));
    const { id } = await preview(['bowline', 'reef', 'clove'], { way });
    expect((await act(id, 'run')).state).toBe('done');
    expect(merged()).toEqual(names([...range(1001, 1007), 1009, 1010]));
    expect(isSeed(1005, 77)).toBe(true);
    expect(isSeed(1006, 1006)).toBe(true);
    if (way === 'move') expect(existsSync(path.join(disk('bowline'), 'beauty/f.1001.png'))).toBe(false);
    if (way === 'link') expect(statSync(path.join(shot.folder, 'beauty/f.1001.png')).nlink).toBe(2);
    expect((await act(id, 'undo')).state).toBe('done');
    expect(merged()).toEqual([]);
    expect(listAll(path.join(top, 'disks'))).toEqual(before);
  });

  it('are decided by owner, or by hand', async () => {
    const own = await preview(['bowline', 'reef', 'clove'], { byHand: [{ target: 'beauty/f.1005.png', source: 2, path: 'beauty/f.1005.png' }] });
    expect(own.steps[4]).toMatchObject({ from: { source: 2 }, why: 'chosen by hand' });
    expect((await preview(['bowline', 'reef', 'clove'], { rule: 'owner' })).steps[4].why).toContain('newer');
  });
});

describe('a merge', () => {
  it('keeps what it replaces, and puts it back', async () => {
    write(shot.folder, [1001, 1002], (frame) => frame + 500);
    write(disk('reef'), [1001, 1003]);
    utimesSync(path.join(disk('reef'), 'beauty/f.1001.png'), new Date(), new Date(Date.now() + 5000));
    const { id, steps } = await preview(['reef']);
    expect(steps.map(({ frame, from, replaces }) => [frame, from?.source ?? null, replaces])).toEqual([
      [1001, 1, true],
      [1002, null, false],
      [1003, 1, false],
    ]);
    await act(id, 'run');
    expect([isSeed(1001, 1001), isSeed(1002, 1502), isSeed(1003, 1003)]).toEqual([true, true, true]);
    await act(id, 'undo');
    expect(merged()).toEqual(names([1001, 1002]));
    expect(isSeed(1001, 1501)).toBe(true);
  });

  it('stops where a permission is refused or a disk is gone, says where, and goes on later', async () => {
    write(disk('reef'), range(1001, 1006));
    const { id } = await preview(['reef']);
    const away = path.join(top, 'disks', 'reef', 'beauty', 'f.1004.png');
    renameSync(away, `${away}.away`);
    const stopped = await act(id, 'run');
    expect(stopped.state).toBe('failed');
    expect(stopped.error!.message).toMatch(/^Stopped after 3 of 6 moves\. .*f\.1004\.png is not there/);
    expect(merged()).toEqual(names([1001, 1002, 1003]));
    renameSync(`${away}.away`, away);
    expect((await act(id, 'run')).state).toBe('done');
    expect(merged()).toEqual(names(range(1001, 1006)));
  });

  it('leaves nothing half written when the disk is full', async () => {
    write(disk('reef'), range(1001, 1003));
    // A file system of a few pages is full at once.
    const small = path.join(shot.folder, 'beauty');
    mkdirSync(small);
    const { spawnSync } = await import('node:child_process');
    if (spawnSync('mount', ['-t', 'tmpfs', '-o', 'size=8k', 'tmpfs', small]).status !== 0) return expect(process.getuid!()).not.toBe(0);
    try {
      const { id } = await preview(['reef']);
      const stopped = await act(id, 'run');
      expect(stopped.error!.message).toMatch(/The disk is full: there was no room for .*f\.100\d\.png/);
      expect(merged().every((name) => !name.endsWith('.part'))).toBe(true);
      spawnSync('mount', ['-o', 'remount,size=1m', small]);
      expect((await act(id, 'run')).state).toBe('done');
      expect(merged()).toEqual(names(range(1001, 1003)));
      await act(id, 'undo');
    } finally {
      spawnSync('umount', [small]);
    }
  });

  it('does not touch a file that changed since', async () => {
    write(disk('reef'), [1001, 1002]);
    const { id } = await preview(['reef']);
    await act(id, 'run');
    writeFileSync(path.join(shot.folder, 'beauty/f.1002.png'), 'painted over');
    const undone = await act(id, 'undo');
    expect(undone.error!.message).toContain('has changed since it was put there');
    expect(readFileSync(path.join(shot.folder, 'beauty/f.1002.png'), 'utf8')).toBe('painted over');
    rmSync(path.join(shot.folder, 'beauty/f.1002.png'));
    expect((await act(id, 'undo')).state).toBe('done');
    expect(merged()).toEqual([]);
  });

  it('does not bring what has changed since its preview, or write over what has come since', async () => {
    write(disk('reef'), [1001, 1002]);
    const { id } = await preview(['reef']);
    write(shot.folder, [1001], () => 5);
    expect((await act(id, 'run')).error!.message).toContain('f.1001.png is there already');
    expect(isSeed(1001, 5)).toBe(true);
    const other = await preview(['reef']);
    writeFileSync(path.join(disk('reef'), 'beauty/f.1002.png'), 'shorter');
    expect((await act(other.id, 'run')).error!.message).toContain('has changed since the preview');
  });

  it('never leaves its folders', async () => {
    write(disk('reef'), [1001]);
    symlinkSync('/etc', path.join(shot.folder, 'beauty'));
    const { id } = await preview(['reef']);
    expect((await act(id, 'run')).error!.message).toMatch(/leads out|is there/);
    expect(existsSync('/etc/f.1001.png')).toBe(false);
    expect((await preview(['../shots'])).job.error!.message).toContain('is not a path inside');
    expect((await preview(['reef', 'reef'])).job.error!.message).toContain('merged with itself');
  });

  it('goes on where a fallen engine stopped, with nothing lost and nothing twice', async () => {
    write(disk('reef'), range(1001, 1012));
    cpSync(disk('reef'), disk('kept'), { recursive: true });
    const { id } = await preview(['reef'], { way: 'move' });
    // An engine that falls between a move and its being written down leaves one behind that was begun.
    expect((await act(id, 'run')).state).toBe('done');
    cutJournal(1 + 2 * 11 + 1);
    await database.change("UPDATE merges SET state = 'running' WHERE id = ?", [id]);
    expect((await act(id, 'run')).state).toBe('done');
    expect(merged()).toEqual(names(range(1001, 1012)));
    for (const frame of range(1001, 1012)) expect(isSeed(frame, frame)).toBe(true);
    expect(readdirSync(path.join(disk('reef'), 'beauty'))).toEqual([]);
  });
});

const journalOf = () => path.join(shot.folder, SET_ASIDE, readdirSync(path.join(shot.folder, SET_ASIDE))[0], 'journal.jsonl');
/** Leaves so many lines of the journal, as a fall would, and adds others. */
function cutJournal(lines: number, ...more: object[]): void {
  const left = readFileSync(journalOf(), 'utf8').split('\n').slice(0, lines);
  writeFileSync(journalOf(), [...left, ...more.map((line) => JSON.stringify(line)), ''].join('\n'));
}

/** What stood where an engine fell in the middle of what takes another file's place: its head, then two lines for the old file and two for the new. */
describe.each(['copy', 'move', 'link'] as const)('a merge by %s that fell in the middle', (way) => {
  let id: number;
  let kept: string;
  const place = (name = 'f.1003.png') => path.join(shot.folder, 'beauty', name);
  const source = () => path.join(disk('reef'), 'beauty/f.1003.png');
  const [OLD, NEW] = [3, 77];

  beforeEach(async () => {
    write(shot.folder, [1003], () => OLD);
    write(disk('reef'), [1003], () => NEW);
    utimesSync(source(), 4e9, 4e9);
    ({ id } = await preview(['reef'], { way }));
    expect((await act(id, 'run')).state).toBe('done');
    kept = path.join(path.dirname(journalOf()), 'files/beauty/f.1003.png');
    expect([isSeed(1003, NEW), readFileSync(kept).equals(Buffer.from(pngBytes(OLD)))]).toEqual([true, true]);
  });

  const takeNewAway = () => (way === 'move' ? renameSync(place(), source()) : rmSync(place()));
  const setMerge = (state: string) => database.change('UPDATE merges SET state = ? WHERE id = ?', [state, id]);
  const NEW_IS_UNDONE = { kind: 'undone', move: 1 };

  const undoFalls: Record<string, () => object[]> = {
    'before anything was moved': () => [],
    'after the new file was taken away': () => (takeNewAway(), []),
    'after the old one had its name again, and still had the other': () => {
      takeNewAway();
      cpSync(kept, place());
      return [NEW_IS_UNDONE];
    },
    'after all of it, before that was written down': () => {
      takeNewAway();
      renameSync(kept, place());
      return [NEW_IS_UNDONE];
    },
  };
  it.each(Object.keys(undoFalls))('is taken back %s', async (where) => {
    cutJournal(6, { kind: 'undoing' }, ...undoFalls[where]());
    await setMerge('undoing');
    expect(await act(id, 'undo')).toMatchObject({ state: 'done', error: null });
    expect(isSeed(1003, OLD)).toBe(true);
    expect(readFileSync(source()).equals(Buffer.from(pngBytes(NEW)))).toBe(true);
    expect(existsSync(path.join(shot.folder, SET_ASIDE))).toBe(false);
    // Once more changes nothing.
    expect((await act(id, 'undo')).error!.code).toBe('not-merged');
    expect(isSeed(1003, OLD)).toBe(true);
  });

  const runFalls: Record<string, () => number> = {
    'before anything was moved': () => {
      takeNewAway();
      renameSync(kept, place());
      return 2;
    },
    'after the old file was copied aside, before it was taken away': () => {
      takeNewAway();
      cpSync(kept, place());
      return 2;
    },
    'between the old file and the new': () => (takeNewAway(), 3),
    'in the middle of a copy': () => {
      takeNewAway();
      writeFileSync(place('f.1003.png.part'), 'half');
      return 4;
    },
    'after all of it, before that was written down': () => 4,
  };
  it.each(Object.keys(runFalls))('goes on %s', async (where) => {
    cutJournal(runFalls[where]());
    await setMerge('running');
    expect(await act(id, 'run')).toMatchObject({ state: 'done', error: null });
    expect(isSeed(1003, NEW)).toBe(true);
    expect(readFileSync(kept).equals(Buffer.from(pngBytes(OLD)))).toBe(true);
    expect((await act(id, 'undo')).state).toBe('done');
    expect(isSeed(1003, OLD)).toBe(true);
    expect(readFileSync(source()).equals(Buffer.from(pngBytes(NEW)))).toBe(true);
    expect(merged().filter((name) => name.startsWith('f.1003'))).toEqual(expect.arrayContaining(['f.1003.png']));
  });
});

describe('what a merge is not led to do', () => {
  it('to act on another shot than its own', async () => {
    write(disk('reef'), [1001]);
    const { id } = await preview(['reef']);
    const other = await createShot(database, { projectId, name: `other${shots}`, note: '', root: 'shots', folder: 'shot1' }, 'ada');
    const job = await settle(await requestJob(database, other, { kind: 'merge', merge: id, action: 'run' }, 'ada'));
    expect(job).toMatchObject({ state: 'failed', error: { code: 'no-merge' } });
    expect(merged()).toEqual([]);
  });

  it('to wait for a pipe that was put in a file’s place', async () => {
    write(disk('reef'), [1001, 1002]);
    const { id } = await preview(['reef']);
    const swapped = path.join(disk('reef'), 'beauty/f.1002.png');
    rmSync(swapped);
    execFileSync('mkfifo', [swapped]);
    const job = await act(id, 'run');
    expect(job.state).toBe('failed');
    expect(job.error!.message).toMatch(/f\.1002\.png is not a regular file/);
  });

  it('to write behind a link that was put there after the preview', async () => {
    write(disk('reef'), [1001, 1002]);
    const { id } = await preview(['reef']);
    const outside = path.join(top, 'outside');
    mkdirSync(outside, { recursive: true });
    symlinkSync(outside, path.join(shot.folder, 'beauty'));
    expect((await act(id, 'run')).state).toBe('failed');
    expect(readdirSync(outside)).toEqual([]);
  });
});

function listAll(folder: string): string[] {
  return readdirSync(folder, { recursive: true, encoding: 'utf8' }).sort();
}
