import { packageWishSchema, FACTS_EDITION, FrameSet, parseBrief, type FileFacts, type Finding, type Tally } from '@mint-tally/core';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { makeDatabase } from '../../../tests/support/database.ts';
import {
  addWaiver,
  createShot,
  ensureProject,
  findFileFacts,
  firstProject,
  forgetFiles,
  listBriefs,
  listCounts,
  listPackages,
  listShots,
  listSpecifications,
  listWaivers,
  loadFileFacts,
  newestBrief,
  listFindingFiles,
  newestCount,
  newestFindings,
  newestTally,
  readSetting,
  removeShot,
  renameShot,
  saveBrief,
  saveFileFacts,
  saveSpecification,
  announcePackage,
  confirmPackage,
  saveTally,
  withdrawWaiver,
  writeSetting,
  type Database,
  type StoredFile,
} from '../src/index.ts';

let database: Database;
let projectId: number;
let count = 0;

const newShot = (name = `shot_${++count}`) => createShot(database, { projectId, name, note: 'wide', root: 'demo', folder: name }, 'ada');

beforeAll(async () => {
  database = await makeDatabase();
  projectId = (await ensureProject(database, 'Saltglass', 'ada')).id;
});
afterAll(() => database.close());

const brief = (range: string) => parseBrief({ shot: 's', range, passes: [{ name: 'beauty', pattern: 'b.####.exr' }] });
const facts: FileFacts = { edition: FACTS_EDITION, level: 'full', problem: null, header: null, trailingBytes: 0, notExamined: null, pixels: null, holes: [] };
const tally: Tally = {
  ready: true,
  level: 'full',
  passes: [{ name: 'beauty', expected: 2, sound: 2, missing: FrameSet.empty, broken: FrameSet.empty, unexpected: FrameSet.empty }],
  findings: [],
};
/** What was chosen for a package that is the whole shot. */
const CHOSEN = { wish: packageWishSchema.parse({}), volumes: 1, holds: new Map([['b.1.exr', 'a'.repeat(64)]]), manifests: ['a'.repeat(64)] };
const counted = (briefId: number, content = 'c'.repeat(64)) => ({
  briefId,
  tally,
  files: 2,
  bytes: 5_000_000_000,
  opened: 2,
  content,
  listing: 'd'.repeat(64),
  changes: null,
});

describe('projects and shots', () => {
  it('make a project once', async () => {
    expect((await ensureProject(database, 'Another', 'ada')).name).toBe('Saltglass');
    expect(await firstProject(database)).toEqual({ id: projectId, name: 'Saltglass' });
  });

  it('keep a name for one shot of a project, to the letter', async () => {
    await newShot('orr_010');
    await expect(newShot('orr_010')).rejects.toThrow(/orr_010 already/);
    const other = await newShot('ORR_010');
    await expect(renameShot(database, other, 'orr_010', '')).rejects.toThrow(/already/);
    expect((await listShots(database, projectId)).map((shot) => shot.name)).toEqual(['ORR_010', 'orr_010']);
  });

  it('forget a removed shot with all that is known of it', async () => {
    const id = await newShot();
    const saved = await database.transaction((inside) => saveBrief(inside, id, brief('1-2'), 'ada'));
    const tallyId = await database.transaction((inside) => saveTally(inside, id, counted(saved.id), 'ada'));
    const bag = { tallyId, root: 'packages', folder: 'p', files: 2, bytes: 9, manifestSha256: 'a'.repeat(64), ...CHOSEN };
    await database.transaction(async (inside) => confirmPackage(inside, await announcePackage(inside, id, bag, 'ada')));
    await database.transaction((inside) => removeShot(inside, id));
    expect(await newestBrief(database, id)).toBeNull();
    expect(await listPackages(database, id)).toEqual([]);
  });

  it('keep times of files that no calendar and no whole number holds, and facts of more than a packet', async () => {
    const id = await newShot();
    const facts = {
      edition: 3,
      level: 'full' as const,
      problem: null,
      header: null,
      trailingBytes: 0,
      notExamined: 'x'.repeat(900_000),
      pixels: null,
      holes: [],
    };
    const times = [0, -62_167_219_200_000, 9.3e21, 1.7e12 + 0.5, Number.MAX_SAFE_INTEGER];
    await saveFileFacts(
      database,
      id,
      times.map((modified, i) => ({ path: `f.${i}.exr`, size: 2 ** 52, modified, sha256: null, facts })),
    );
    const known = await loadFileFacts(database, id);
    expect(times.map((_, i) => known.get(`f.${i}.exr`)!.modified)).toEqual(times);
    // 27 MB in all: a server that takes no more than 16 in one statement would break off.
    await saveFileFacts(
      database,
      id,
      Array.from({ length: 30 }, (_, i) => ({ path: `g.${i}.exr`, size: 1, modified: 1, sha256: null, facts })),
    );
    expect((await loadFileFacts(database, id)).size).toBe(35);
  });

  it('keep what receivers ask for under its name', async () => {
    await saveSpecification(database, projectId, { name: 'Feature', minimumPadding: 4 }, 'ada');
    await saveSpecification(database, projectId, { name: 'Broadcast', formats: ['png'] }, 'ada');
    await saveSpecification(database, projectId, { name: 'Feature', minimumPadding: 5 }, 'bo');
    expect(await listSpecifications(database, projectId)).toEqual([
      { name: 'Broadcast', formats: ['png'] },
      { name: 'Feature', minimumPadding: 5 },
    ]);
  });

  it('remember settings', async () => {
    expect(await readSetting(database, 'demo')).toBeNull();
    await writeSetting(database, 'demo', 'made');
    await writeSetting(database, 'demo', 'made again');
    expect(await readSetting(database, 'demo')).toBe('made again');
  });
});

describe('briefs', () => {
  it('get a new version only when they change', async () => {
    const id = await newShot();
    expect((await database.transaction((inside) => saveBrief(inside, id, brief('1-10'), 'ada'))).version).toBe(1);
    expect((await database.transaction((inside) => saveBrief(inside, id, brief('1-10'), 'ada'))).version).toBe(1);
    expect((await database.transaction((inside) => saveBrief(inside, id, brief('1-12'), 'bo'))).version).toBe(2);
    expect(await newestBrief(database, id)).toMatchObject({ version: 2, actor: 'bo', brief: { range: '1-12' } });
    expect((await listBriefs(database, id)).map((saved) => [saved.version, saved.brief.range])).toEqual([
      [2, '1-12'],
      [1, '1-10'],
    ]);
  });

  it('get two versions when two people save at once', async () => {
    const id = await newShot();
    const save = (range: string) => database.transaction((inside) => saveBrief(inside, id, brief(range), 'ada'));
    const versions = await Promise.all(['1-3', '1-4', '1-5'].map(save));
    expect(versions.map((saved) => saved.version).sort()).toEqual([1, 2, 3]);
  });
});

describe('what is known of files', () => {
  const file = (path: string, size = 7): StoredFile => ({ path, size, modified: 1_790_000_000_123, sha256: 'f'.repeat(64), facts });

  it('comes back as it was, replaced by what is newer, and is forgotten', async () => {
    const id = await newShot();
    await saveFileFacts(database, id, [file('a/b.0001.exr'), file('a/B.0001.exr'), file('\u00e9.png')]);
    await saveFileFacts(database, id, [file('a/b.0001.exr', 8_000_000_000)]);
    const known = await loadFileFacts(database, id);
    expect([...known.keys()].sort()).toEqual(['a/B.0001.exr', 'a/b.0001.exr', '\u00e9.png']);
    expect(known.get('a/b.0001.exr')).toEqual(file('a/b.0001.exr', 8_000_000_000));
    await forgetFiles(database, id, ['a/b.0001.exr', 'nothing']);
    expect(await findFileFacts(database, id, 'a/b.0001.exr')).toBeNull();
    expect(await findFileFacts(database, id, 'a/B.0001.exr')).toEqual(file('a/B.0001.exr'));
  });

  it('leaves out paths that are too long, and takes thousands at once', async () => {
    const id = await newShot();
    await saveFileFacts(database, id, [file('x'.repeat(3000)), ...Array.from({ length: 2500 }, (_, i) => file(`f.${i}.png`))]);
    const known = await loadFileFacts(database, id);
    expect(known.size).toBe(2500);
    await forgetFiles(database, id, [...known.keys()]);
    expect((await loadFileFacts(database, id)).size).toBe(0);
  });
});

describe('counts, waivers and packages', () => {
  it('list the counts that are kept with what changed before each, the newest first', async () => {
    const id = await newShot();
    const { id: briefId } = await database.transaction((inside) => saveBrief(inside, id, brief('1-2'), 'ada'));
    await database.transaction((inside) => saveTally(inside, id, counted(briefId), 'ada'));
    const changes = { arrived: { count: 1, paths: ['b.0002.exr'] }, replaced: { count: 0, paths: [] }, vanished: { count: 0, paths: [] } };
    await database.transaction((inside) => saveTally(inside, id, { ...counted(briefId), changes }, 'ben'));
    const counts = await listCounts(database, id);
    expect(counts.map(({ actor, changes }) => ({ actor, changes }))).toEqual([
      { actor: 'ben', changes },
      { actor: 'ada', changes: null },
    ]);
    expect(counts[0]).toMatchObject({ expected: 2, sound: 2, blockers: 0, briefVersion: 1 });
    expect((await newestTally(database, id))?.changes).toEqual(changes);
  });

  it('read a tally in parts: its sums, its findings with the first of their files, and all files of one', async () => {
    const id = await newShot();
    const { id: briefId } = await database.transaction((inside) => saveBrief(inside, id, brief('1-300'), 'ada'));
    const files = Array.from({ length: 300 }, (_, i) => `b.${String(i + 1).padStart(4, '0')}.exr`);
    const evidence = files.slice(0, 200).map((file) => ({ file, message: 'It ends too soon.' }));
    const frames = FrameSet.range(1, 300);
    const found: Finding[] = [
      { code: 'truncated', severity: 'blocker', family: 'soundness', pass: 'beauty', frames, files, moreFiles: 7, message: '307 files.', detail: '', evidence },
      { code: 'stray-file', severity: 'note', family: 'count', pass: null, frames: FrameSet.empty, files, moreFiles: 0, message: '', detail: '', evidence: [] },
    ];
    const whole: Tally = { ...tally, ready: false, findings: found };
    expect(await newestFindings(database, id)).toBeNull();
    await database.transaction((inside) => saveTally(inside, id, { ...counted(briefId), tally: whole }, 'ada'));
    expect(await newestCount(database, id)).toMatchObject({ expected: 2, sound: 2, blockers: 1, findings: 2, actor: 'ada', briefVersion: 1 });
    const [cut, strays] = (await newestFindings(database, id))!;
    expect(cut).toEqual({ ...found[0], files: files.slice(0, 20), moreFiles: 287, evidence: evidence.slice(0, 20) });
    expect(strays).toEqual(found[1]);
    expect(await listFindingFiles(database, id, found[0])).toEqual(files);
    expect(await listFindingFiles(database, id, { ...found[0], detail: 'other' })).toEqual([]);
    expect((await newestTally(database, id))!.tally).toEqual(whole);
  });

  it('give the newest count and keep a bounded number, and those that packages came from', async () => {
    const id = await newShot();
    const { id: briefId } = await database.transaction((inside) => saveBrief(inside, id, brief('1-2'), 'ada'));
    const first = await database.transaction((inside) => saveTally(inside, id, counted(briefId), 'ada'));
    await database.transaction(async (inside) =>
      confirmPackage(
        inside,
        await announcePackage(
          inside,
          id,
          { tallyId: first, root: 'packages', folder: 'p1', files: 2, bytes: 9, manifestSha256: 'a'.repeat(64), ...CHOSEN },
          'ada',
        ),
      ),
    );
    for (let i = 0; i < 25; i++) await database.transaction((inside) => saveTally(inside, id, counted(briefId, String(i).padStart(64, '0')), 'ada'));
    expect(await newestTally(database, id)).toMatchObject({ content: '24'.padStart(64, '0'), bytes: 5_000_000_000, tally });
    const [{ number }] = await database.rows('SELECT COUNT(*) AS number FROM tallies WHERE shot_id = ?', [id]);
    expect(number).toBe(21);
    expect(await listPackages(database, id)).toMatchObject([{ tallyId: first, folder: 'p1', actor: 'ada' }]);
  });

  it('keep a withdrawn waiver in the record and out of the list', async () => {
    const id = await newShot();
    const subject = { kind: 'finding', code: 'truncated', pass: 'beauty', detail: '', frames: FrameSet.of([3]), files: [] } as const;
    await database.transaction((inside) =>
      addWaiver(inside, id, { subject: { ...subject, files: [] }, person: 'Ada', reason: 'hidden behind the lamp' }, 'ada'),
    );
    const [waiver] = (await listWaivers(database, id)).waivers;
    expect(waiver).toMatchObject({ subject, person: 'Ada', reason: 'hidden behind the lamp' });
    await database.transaction((inside) => withdrawWaiver(inside, id + 1, waiver.id, 'bo'));
    expect((await listWaivers(database, id)).waivers).toHaveLength(1);
    await database.transaction((inside) => withdrawWaiver(inside, id, waiver.id, 'bo'));
    expect((await listWaivers(database, id)).waivers).toEqual([]);
    // One that nobody can read waives nothing, and says so; the others stand.
    const bad = await database.change(
      `INSERT INTO waivers (shot_id, subject, person, reason, created_at, actor) VALUES (?, '{"kind":"finding","frames":"abc"}', 'Ada', 'x', NOW(), 'ada')`,
      [id],
    );
    expect(await listWaivers(database, id)).toEqual({
      waivers: [],
      unreadable: [{ id: bad.insertedId, why: expect.stringContaining(`The waiver ${bad.insertedId} of Ada cannot be read`) }],
    });
    const [row] = await database.rows('SELECT withdrawn_by FROM waivers WHERE id = ?', [waiver.id]);
    expect(row.withdrawn_by).toBe('bo');
  });

  it('write nothing of a transaction that throws', async () => {
    const before = (await listShots(database, projectId)).length;
    const work = database.transaction(async (inside) => {
      await createShot(inside, { projectId, name: 'half', note: '', root: 'demo', folder: '' }, 'ada');
      throw new Error('stop');
    });
    await expect(work).rejects.toThrow('stop');
    expect(await listShots(database, projectId)).toHaveLength(before);
  });
});
