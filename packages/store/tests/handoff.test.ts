import { contactSheetSettingsSchema, FrameSet, packageWishSchema, parseBrief, RECEIPT_KIND, type Receipt, type Tally } from '@mint-tally/core';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { makeDatabase } from '../../../tests/support/database.ts';
import {
  addReceipt,
  addStamp,
  announcePackage,
  confirmPackage,
  createShot,
  ensureProject,
  findArrival,
  keepVerified,
  listMovies,
  listPackages,
  listReceipts,
  listSheets,
  newestStamp,
  noteArrival,
  noteMovie,
  noteSheet,
  readHolds,
  readStateKey,
  saveBrief,
  saveTally,
  withdrawStamp,
  type Database,
} from '../src/index.ts';

const tally: Tally = {
  ready: true,
  level: 'full',
  passes: [{ name: 'beauty', expected: 2, sound: 2, missing: FrameSet.empty, broken: FrameSet.empty, unexpected: FrameSet.empty }],
  findings: [],
};
const receipt = (manifestSha256: string): Receipt => ({
  ...{ kind: RECEIPT_KIND, shot: 'orr_010', manifestSha256, valid: true, ready: true, files: 2, bytes: 9, problems: [], person: 'Ivo' },
  at: '2026-01-02T03:04:05.000Z',
});
let database: Database;
let shot: number;
let tallyId: number;

beforeAll(async () => {
  database = await makeDatabase();
  const projectId = (await ensureProject(database, 'Saltglass', 'ada')).id;
  shot = await createShot(database, { projectId, name: 'orr_010', note: '', root: 'demo', folder: 'orr_010' }, 'ada');
  const { id } = await database.transaction((inside) =>
    saveBrief(inside, shot, parseBrief({ shot: 's', range: '1-2', passes: [{ name: 'beauty', pattern: 'b.####.exr' }] }), 'ada'),
  );
  tallyId = await database.transaction((inside) =>
    saveTally(inside, shot, { briefId: id, tally, files: 2, bytes: 9, opened: 2, content: 'c'.repeat(64), listing: 'd'.repeat(64), changes: null }, 'ada'),
  );
});
afterAll(() => database.close());

describe('a package', () => {
  it('is kept with what was chosen, and with what whoever has it holds', async () => {
    const wish = packageWishSchema.parse({ passes: ['beauty'], form: 'tar', volumeSize: 4e9 });
    const holds = new Map([
      ['beauty/b.0001.exr', 'a'.repeat(64)],
      ['beauty/b.0002.exr', 'b'.repeat(64)],
    ]);
    const id = await database.transaction(async (inside) => {
      const saved = {
        tallyId,
        root: 'packages',
        folder: 'p',
        files: 2,
        bytes: 9,
        manifestSha256: 'c'.repeat(64),
        wish,
        volumes: 2,
        holds,
        manifests: ['1'.repeat(64), '2'.repeat(64)],
      };
      const announced = await announcePackage(inside, shot, saved, 'ada');
      await confirmPackage(inside, announced);
      return announced;
    });
    expect(await listPackages(database, shot)).toMatchObject([{ id, wish, volumes: 2 }]);
    expect(await readHolds(database, shot, id)).toEqual(holds);
    expect(await readHolds(database, shot, id + 1)).toBe(null);
  });
});

describe('a movie', () => {
  it('is kept with what it was found to be', async () => {
    const made = { frames: 48, fps: '23.976', seconds: 2.002, slates: '', bytes: 900, width: 640, height: 360, foretold: null, differences: [1.5, 2] };
    await database.transaction((inside) => noteMovie(inside, shot, { root: 'packages', file: 'm.mp4', pass: 'beauty', made, wish: {} }, 'ada'));
    expect(await listMovies(database, shot)).toMatchObject([{ file: 'm.mp4', pass: 'beauty', made, actor: 'ada' }]);
  });
});

describe('a stamp', () => {
  it('is the newest that nobody took back, and changes what pages show', async () => {
    const stamp = (kind: 'signed' | 'sent-back', person: string) =>
      database.transaction((inside) => addStamp(inside, shot, { kind, content: 'd'.repeat(64), person, note: 'lamps' }, 'ada'));
    expect(await newestStamp(database, shot)).toBe(null);
    const before = await readStateKey(database, shot);
    await stamp('signed', 'Mira');
    expect(await readStateKey(database, shot)).not.toBe(before);
    await stamp('sent-back', 'Ada');
    const newest = (await newestStamp(database, shot))!;
    expect(newest).toMatchObject({ kind: 'sent-back', person: 'Ada', note: 'lamps' });
    await database.transaction((inside) => withdrawStamp(inside, shot, newest.id, 'ada'));
    expect(await newestStamp(database, shot)).toMatchObject({ kind: 'signed', person: 'Mira' });
  });
});

describe('a receipt', () => {
  it('belongs to the package that bears its manifest, or to none', async () => {
    const { id } = (await listPackages(database, shot))[0]!;
    const add = (sum: string) => database.transaction((inside) => addReceipt(inside, shot, receipt(sum), 'ada'));
    // Of a tar or of volumes the manifests are others than what stands for the whole.
    for (const volume of ['1', '2']) expect(await add(volume.repeat(64))).toBe(id);
    expect(await add('e'.repeat(64))).toBe(null);
    expect(await listReceipts(database, shot)).toMatchObject([{ packageId: null }, { packageId: id, receipt: { person: 'Ivo' } }, { packageId: id }]);
  });
});

describe('a contact sheet and a package that arrived', () => {
  it('stand with their shot as they were made and found, the newest first', async () => {
    const wish = contactSheetSettingsSchema.parse({ passes: ['beauty'], background: [0, 0, 0] });
    const made = { pictures: 24, pages: 1, bytes: 900, slates: [{ pass: 'beauty', frames: '1003' }] };
    await database.transaction(async (inside) => {
      for (const file of ['a.png', 'b.png']) await noteSheet(inside, shot, { root: 'packages', file, wish, made }, 'ada');
    });
    expect(await listSheets(database, shot)).toMatchObject([
      { file: 'b.png', wish, made, actor: 'ada' },
      { file: 'a.png', root: 'packages' },
    ]);
    expect(await findArrival(database, shot)).toBeNull();
    await database.transaction((inside) => noteArrival(inside, shot, { root: 'packages', folder: 'one' }, 'ada'));
    expect(await findArrival(database, shot)).toEqual({ root: 'packages', folder: 'one', receipt: null });
    for (const sum of ['a', 'b']) await database.transaction((inside) => keepVerified(inside, shot, receipt(sum.repeat(64))));
    expect(await findArrival(database, shot)).toMatchObject({ receipt: { manifestSha256: 'b'.repeat(64), person: 'Ivo' } });
  });
});
