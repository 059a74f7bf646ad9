import { execFileSync } from 'node:child_process';
import { cpSync, existsSync, mkdirSync, readdirSync, readFileSync, renameSync, rmSync, statSync, symlinkSync, utimesSync, writeFileSync } from 'node:fs';
import path from 'node:path';
import { type MergeWay } from '@mint-tally/core';
import { createShot, findMerge, requestJob } from '@mint-tally/store';
import { beforeEach, describe, expect, it } from 'vitest';
import {
  beginMerging,
  top,
  database,
  projectId,
  shots,
  shot,
  disk,
  write,
  range,
  merged,
  names,
  isSeed,
  settle,
  act,
  preview,
  cutJournal,
} from '../../../tests/support/merging.ts';

beginMerging();

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
