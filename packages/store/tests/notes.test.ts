import { noteSchema } from '@mint-tally/core';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { makeDatabase } from '../../../tests/support/database.ts';
import { addNote, createShot, ensureProject, listNotes, setNoteClosed, type Database } from '../src/index.ts';

let database: Database;
let shots: number[];

beforeAll(async () => {
  database = await makeDatabase();
  const projectId = (await ensureProject(database, 'Saltglass', 'ada')).id;
  const make = (name: string) => createShot(database, { projectId, name, note: '', root: 'demo', folder: name }, 'ada');
  shots = [await make('orr_010'), await make('orr_020')];
});
afterAll(() => database.close());

const note = (text: string, rectangle: [number, number, number, number] | null = null) =>
  noteSchema.parse({ pass: 'beauty', frames: '1001,1004-1006', rectangle, text });
const add = (text: string, rectangle: [number, number, number, number] | null = null) =>
  database.transaction((inside) => addNote(inside, shots[0]!, note(text, rectangle), 'Ada', 'local'));
const close = (id: number, closed: boolean, by = 'Ben', shot = shots[0]!) => database.transaction((inside) => setNoteClosed(inside, shot, id, closed, by));

describe('notes', () => {
  it('stand as they were written until somebody closes them, and again when they are opened', async () => {
    const id = await add('crawls under the lamp', [-4, 2, 10, 20]);
    const [first] = await listNotes(database, shots[0]!);
    expect(first).toMatchObject({ id, pass: 'beauty', rectangle: [-4, 2, 10, 20], text: 'crawls under the lamp', person: 'Ada', closed: null });
    expect(String(first!.frames)).toBe('1001,1004-1006');
    await close(id, true);
    await close(id, true, 'Cem');
    expect((await listNotes(database, shots[0]!))[0]!.closed?.by).toBe('Ben');
    await close(id, false);
    expect((await listNotes(database, shots[0]!))[0]!.closed).toBeNull();
  });

  it('belong to one shot', async () => {
    const id = await add('spike');
    await expect(close(id, true, 'Ben', shots[1])).rejects.toThrow('There is no such note.');
    expect(await listNotes(database, shots[1]!)).toEqual([]);
  });

  it('are refused without a frame, without words, and with a region of nothing', () => {
    const sound = { pass: 'beauty', frames: '1', rectangle: null, text: 'a' };
    expect(noteSchema.safeParse(sound).success).toBe(true);
    for (const change of [{ frames: '' }, { text: '  ' }, { rectangle: [0, 0, 0, 5] }, { pass: '' }])
      expect(noteSchema.safeParse({ ...sound, ...change }).success).toBe(false);
  });
});
