import { cpSync, existsSync, readFileSync, renameSync, rmSync, utimesSync, writeFileSync } from 'node:fs';
import path from 'node:path';
import { SET_ASIDE } from '@mint-tally/core';
import { beforeEach, describe, expect, it } from 'vitest';
import { pngBytes } from '../../../tests/support/frames.ts';
import { beginMerging, database, shot, disk, write, merged, isSeed, act, preview, cutJournal, journalOf } from '../../../tests/support/merging.ts';

beginMerging();

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
