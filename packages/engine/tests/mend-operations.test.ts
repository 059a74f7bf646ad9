import { execFileSync, spawnSync } from 'node:child_process';
import { createHash } from 'node:crypto';
import { cpSync, existsSync, mkdtempSync, readdirSync, readFileSync, realpathSync, rmSync, truncateSync, writeFileSync } from 'node:fs';
import os from 'node:os';
import path from 'node:path';
import {
  encodeExr,
  memorySource,
  mendWishSchema,
  parseBrief,
  readExrAttributes,
  readStringVector,
  SET_ASIDE,
  stringVector,
  type MendWish,
} from '@mint-tally/core';
import {
  createShot,
  ensureProject,
  listMends,
  newestTally,
  readMendPreview,
  requestJob,
  saveBrief,
  type Database,
  type Job,
  type MendPreview,
} from '@mint-tally/store';
import { afterAll, beforeAll, beforeEach, describe, expect, it } from 'vitest';
import { testConfig } from '../../../tests/support/config.ts';
import { makeDatabase } from '../../../tests/support/database.ts';
import { settleJob } from '../../../tests/support/jobs.ts';
import { litBrief, renderLit, writeLitShot } from '../../../tests/support/lit-shot.ts';
import { InspectionPool, JobRunner, planMend, readMends, soundFrames, type Config } from '../src/index.ts';
import { codecTools } from '../src/inspection/codec-tools.ts';

const FRAMES = 8;
const PASSES = ['beauty', 'depth'] as const;
const brief = litBrief(FRAMES, PASSES);
const order = parseBrief({
  ...brief,
  passes: brief.passes.map((pass) => (pass.name === 'depth' ? { ...pass, channels: ['Z'] } : { ...pass, channels: ['R', 'G', 'B', 'A'] })),
});

let top = '';
let database: Database;
let config: Config;
let pool: InspectionPool;
let runner: JobRunner;
let projectId: number;
let shots = 0;

beforeAll(async () => {
  top = realpathSync(mkdtempSync(path.join(os.tmpdir(), 'mint-operations-')));
  database = await makeDatabase();
  projectId = (await ensureProject(database, 'Saltglass', 'ada')).id;
  config = testConfig(top, [
    { name: 'shots', writable: true },
    { name: 'again', writable: false },
  ]);
  const frames = Array.from({ length: FRAMES }, (_, i) => renderLit(i, 8, 3));
  writeLitShot(path.join(top, 'shots/plain'), frames, PASSES);
  // The same frames, rendered with other samples and another seed.
  writeLitShot(
    path.join(top, 'again/better'),
    Array.from({ length: FRAMES }, (_, i) => renderLit(i, 8, 71)),
    PASSES,
  );
  pool = new InspectionPool(1);
  runner = new JobRunner({ database, config, pool, services: [] }, () => undefined);
  await runner.start();
}, 120_000);
afterAll(async () => {
  await runner.stop();
  await pool.close();
  await database.close();
  rmSync(top, { recursive: true, force: true });
});

let id: number;
let folder: string;
/** Every file below the shot's folder but those of the set-aside, with its checksum. */
const tree = () =>
  Object.fromEntries(
    readdirSync(folder, { recursive: true, encoding: 'utf8', withFileTypes: true })
      .filter((entry) => entry.isFile() && !entry.parentPath.includes(SET_ASIDE))
      .map((entry) => path.join(entry.parentPath, entry.name))
      .sort()
      .map((file) => [path.relative(folder, file), createHash('sha256').update(readFileSync(file)).digest('hex')]),
  );
const file = (name: string) => path.join(folder, name);

beforeEach(async () => {
  const name = `shot${++shots}`;
  folder = path.join(top, 'shots', name);
  cpSync(path.join(top, 'shots/plain'), folder, { recursive: true });
  id = await createShot(database, { projectId, name, note: '', root: 'shots', folder: name }, 'ada');
  await database.transaction((inside) => saveBrief(inside, id, order, 'ada'));
});

type Action = 'preview' | 'apply' | 'undo' | 'let-go';
const act = async (action: Action, wish: MendWish | null, seen = ''): Promise<Job> =>
  settleJob(database, await requestJob(database, id, { kind: 'mend', action, wish, seen, until: null }, 'ada'));
const count = async () => {
  await settleJob(database, await requestJob(database, id, { kind: 'count' }, 'ada'));
  return (await newestTally(database, id))!.tally;
};

/** Previews a mend in the way of its kind. */
async function preview(asked: object): Promise<{ wish: MendWish; seen: string; shown: MendPreview | null }> {
  const wish = mendWishSchema.parse(asked);
  if (wish.kind === 'patch' || wish.kind === 'convert') {
    expect(await act('preview', wish)).toMatchObject({ state: 'done', error: null });
    const shown = (await readMendPreview(database, id))!;
    return { wish, seen: shown.seen, shown };
  }
  const plan = await planMend({ folder, brief: order, wish, kept: new Set(), now: Date.now(), isSound: await soundFrames(database, id) });
  expect(plan.conflicts).toEqual([]);
  return { wish, seen: plan.seen, shown: null };
}

/** Carries a mend out. @returns its journal */
async function mend(asked: object): Promise<string> {
  const { wish, seen } = await preview(asked);
  expect(await act('apply', wish, seen)).toMatchObject({ state: 'done', error: null });
  return (await listMends(database, id, 1))[0]!.journal;
}

/** Takes a mend back. */
async function undo(journal: string): Promise<void> {
  expect(await act('undo', null, journal)).toMatchObject({ state: 'done', error: null });
}

describe('a patch', () => {
  const patch = (of: object = {}) => ({ kind: 'patch', root: 'again', folder: 'better', ...of });

  it('replaces what is missing or broken, keeps what it replaces, and leads back to the bytes', async () => {
    rmSync(file('beauty/beauty.1003.exr'));
    truncateSync(file('depth/depth.1005.exr'), 3000);
    await count();
    const before = tree();
    const { shown } = await preview(patch());
    expect(shown!.steps.map(({ action, to }) => `${action} ${path.basename(to)}`)).toEqual([
      'write beauty.1003.exr',
      'write depth.1005.exr',
      'set-aside depth.1005.exr',
    ]);
    expect(shown!.refused).toEqual([]);
    const journal = await mend(patch());
    expect((await count()).ready).toBe(true);
    expect(readFileSync(file('beauty/beauty.1003.exr'))).toEqual(readFileSync(path.join(top, 'again/better/beauty/beauty.1003.exr')));
    expect(existsSync(path.join(folder, SET_ASIDE, journal, 'files/depth/depth.1005.exr'))).toBe(true);
    await undo(journal);
    expect(tree()).toEqual(before);
  });

  it('leaves out what is not sound or not of the right kind, and takes the rest', async () => {
    const other = path.join(top, 'again/worse');
    cpSync(path.join(top, 'again/better'), other, { recursive: true });
    truncateSync(path.join(other, 'beauty/beauty.1002.exr'), 2000);
    cpSync(path.join(other, 'depth/depth.1003.exr'), path.join(other, 'beauty/beauty.1003.exr'));
    await count();
    const { shown } = await preview(patch({ folder: 'worse', frames: '1002-1004', passes: ['beauty'] }));
    expect(shown!.refused.map(({ frame }) => frame)).toEqual([1002, 1003]);
    expect(shown!.steps.filter(({ action }) => action === 'write').map(({ to }) => to)).toEqual(['beauty/beauty.1004.exr']);
    rmSync(other, { recursive: true });
  });

  it('tells where the frames at its borders do not match', async () => {
    const other = path.join(top, 'again/noisy');
    writeLitShot(
      other,
      Array.from({ length: FRAMES }, (_, i) => renderLit(i, 1, 9)),
      PASSES,
    );
    await count();
    const { shown } = await preview(patch({ folder: 'noisy', frames: '1004-1005', passes: ['beauty'] }));
    expect(shown!.words.map(({ frame, message }) => `${frame} ${message}`)).toEqual(
      expect.arrayContaining([
        expect.stringMatching(/^1004 \d+ % more noise than frame 1003/),
        expect.stringMatching(/^1005 \d+ % more noise than frame 1006/),
      ]),
    );
    const matching = await preview(patch({ frames: '1004-1005', passes: ['beauty'] }));
    expect(matching.shown!.words.filter(({ message }) => message.includes('noise'))).toEqual([]);
    rmSync(other, { recursive: true });
  });

  it('stops at a file that changed since the preview, and goes no further', async () => {
    const other = path.join(top, 'again/moving');
    cpSync(path.join(top, 'again/better'), other, { recursive: true });
    await count();
    const { wish, seen } = await preview(patch({ folder: 'moving', frames: '1002-1003', passes: ['beauty'] }));
    writeFileSync(path.join(other, 'beauty/beauty.1003.exr'), 'other');
    const stopped = await act('apply', wish, seen);
    expect(stopped.error!.message).toMatch(/^Stopped after \d of 4 moves\. .*beauty\.1003\.exr has changed since the preview/);
    expect(readdirSync(file('beauty')).filter((name) => name.endsWith('.part'))).toEqual([]);
    const [left] = await readMends(folder);
    expect(left!.isEnded).toBe(false);
    await undo(left!.head.id);
    rmSync(other, { recursive: true });
  });

  it('refuses the shot’s own folder', async () => {
    expect((await act('preview', mendWishSchema.parse({ kind: 'patch', root: 'shots', folder: path.basename(folder) }))).error!.code).toBe('same-folder');
  });
});

describe('a hold', () => {
  it('fills holes with stopgaps that stop the handoff, until something is written in their place', async () => {
    rmSync(file('beauty/beauty.1003.exr'));
    rmSync(file('beauty/beauty.1004.exr'));
    await count();
    const before = tree();
    const journal = await mend({ kind: 'hold' });
    const held = await count();
    expect(held.ready).toBe(false);
    const blockers = ({ findings }: typeof held) =>
      findings.filter(({ severity }) => severity === 'blocker').map(({ code, frames }) => `${code} ${String(frames)}`);
    expect(blockers(held)).toEqual(['stopgap-frame 1003-1004']);
    expect(held.findings.some(({ code }) => code === 'frozen-frame')).toBe(false);
    expect(held.passes[0]).toMatchObject({ sound: FRAMES - 2 });
    cpSync(path.join(top, 'again/better/beauty/beauty.1003.exr'), file('beauty/beauty.1003.exr'));
    expect(blockers(await count())).toEqual(['stopgap-frame 1004']);
    rmSync(file('beauty/beauty.1003.exr'));
    cpSync(file('beauty/beauty.1002.exr'), file('beauty/beauty.1003.exr'));
    await undo(journal);
    expect(tree()).toEqual(before);
  });

  it('is followed by a mend that renames it', async () => {
    rmSync(file('beauty/beauty.1003.exr'));
    await count();
    await mend({ kind: 'hold' });
    await mend({ kind: 'renumber', by: 1 });
    expect((await count()).findings.filter(({ code }) => code === 'stopgap-frame').map(({ frames }) => String(frames))).toEqual(['1004']);
  });
});

describe('what was set aside', () => {
  it('comes back, in the place of another where that is given up, or is let go', async () => {
    const journal = await mend({ kind: 'trim', frames: '1001,1008', passes: ['beauty'] });
    expect(Object.keys(tree())).not.toContain('beauty/beauty.1001.exr');
    const kept = path.join(folder, SET_ASIDE, journal, 'files');
    expect(existsSync(path.join(kept, 'brief.json'))).toBe(true);
    await mend({ kind: 'restore', mend: journal, paths: ['beauty/beauty.1001.exr'] });
    expect(existsSync(file('beauty/beauty.1001.exr'))).toBe(true);
    writeFileSync(file('beauty/beauty.1008.exr'), 'another');
    const wish = mendWishSchema.parse({ kind: 'restore', mend: journal, paths: ['beauty/beauty.1008.exr'], aside: ['beauty/beauty.1008.exr'] });
    const { seen } = await planMend({ folder, brief: order, wish, kept: new Set(), now: Date.now() });
    expect(await act('apply', wish, seen)).toMatchObject({ state: 'done', error: null });
    expect(readFileSync(file('beauty/beauty.1008.exr')).length).toBeGreaterThan(1000);
    expect(await act('let-go', null, journal)).toMatchObject({ state: 'done', error: null });
    expect(existsSync(kept)).toBe(false);
    const mends = await readMends(folder);
    expect(mends).toHaveLength(3);
    await undo(mends[2]!.head.id);
    await undo(mends[1]!.head.id).catch(() => undefined);
  });
});

describe('a conform', () => {
  it('gives every moment its frame, and leads back to the bytes', async () => {
    const before = tree();
    for (const fps of ['48', '12', '25', '30']) {
      const journal = await mend({ kind: 'conform', fps });
      const frames = readdirSync(file('beauty')).length;
      expect(frames).toBe(Math.round((FRAMES * Number(fps)) / 24));
      expect(readdirSync(file('depth'))).toHaveLength(frames);
      await undo(journal);
      expect(tree()).toEqual(before);
    }
  });
});

/** Reads a picture with a program that is not ours; null where it is not there. */
const reader = spawnSync('oiiotool', ['--version']).status === 0;

describe('a conversion', () => {
  it('in place is exact where it can be, keeps the originals, and leads back to the bytes', async () => {
    const before = tree();
    const original = planes('beauty/beauty.1001.exr');
    for (const compression of ['none', 'rle', 'zips', 'piz'] as const) {
      const { shown } = await preview({ kind: 'convert', to: { format: 'exr', compression } });
      expect(shown!.notes.every((note) => note.includes('exact to the bit'))).toBe(true);
      const journal = await mend({ kind: 'convert', to: { format: 'exr', compression } });
      expect((await count()).findings.filter(({ severity }) => severity === 'blocker')).toEqual([]);
      if (original !== null) expect(planes('beauty/beauty.1001.exr')).toEqual(original);
      await undo(journal);
      expect(tree()).toEqual(before);
    }
  });

  it('says what is lost before, with a figure', async () => {
    const { shown } = await preview({ kind: 'convert', passes: ['beauty'], to: { format: 'png', depth: '16', into: 'png' } });
    expect(shown!.notes.join()).toMatch(/values change by [\d.e-]+ at most/);
    const lossy = await preview({ kind: 'convert', passes: ['beauty'], to: { format: 'exr', compression: 'dwaa' } });
    expect(lossy.shown!.notes.join()).toMatch(/by [\d.]+ % on the whole, on 3 frames looked at/);
  });

  it.skipIf(!reader)('is read by a library that is not ours as the original is', async () => {
    const original = meansOf('beauty/beauty.1001.exr');
    for (const compression of ['rle', 'piz', 'pxr24', 'b44', 'dwaa', 'dwab'] as const) {
      const journal = await mend({ kind: 'convert', passes: ['beauty'], to: { format: 'exr', compression, into: compression } });
      const made = meansOf(`${compression}/beauty/beauty.1001.exr`);
      made.forEach((mean, c) => expect([compression, Math.abs(mean - original[c]!) < 0.004 * original[c]! + 1e-4]).toEqual([compression, true]));
      await undo(journal);
    }
    // The curve is taken out again, so that the means can be held against each other.
    for (const [format, extension] of [
      ['png', 'png'],
      ['tiff', 'tif'],
      ['dpx', 'dpx'],
      ['tga', 'tga'],
      ['jpeg', 'jpg'],
    ] as const) {
      const journal = await mend({
        kind: 'convert',
        passes: ['beauty'],
        to: { format, curve: 'linear', alpha: format === 'jpeg' ? 'none' : 'same', into: format },
      });
      const made = meansOf(`${format}/beauty/beauty.1001.${extension}`);
      const clipped = clippedMeansOf('beauty/beauty.1001.exr');
      made.slice(0, 3).forEach((mean, c) => expect([format, Math.abs(mean - clipped[c]!) < 0.01 ? 0 : mean - clipped[c]!]).toEqual([format, 0]));
      await undo(journal);
    }
  });

  it('splits a file of layers, and gathers passes into one', async () => {
    const journal = await mend({ kind: 'convert', to: { format: 'exr', layers: 'gather-layers', into: 'all' } });
    expect(readdirSync(file('all'))).toHaveLength(FRAMES);
    await undo(journal);
    expect(existsSync(file('all'))).toBe(false);
    const parts = await mend({ kind: 'convert', to: { format: 'exr', layers: 'gather-parts', into: 'all' } });
    if (reader) expect(execFileSync('oiiotool', ['--info', '-v', '-a', file('all/orr_010_layers.1001.exr')], { encoding: 'utf8' })).toMatch(/2 subimages/);
    await undo(parts);
  });

  it('gathers passes into the views of one file, which are not named where they are split again', async () => {
    const gathered = await mend({ kind: 'convert', to: { format: 'exr', layers: 'gather-views', into: 'views' } });
    const viewsOf = (name: string) => {
      const noted = readExrAttributes(memorySource(readFileSync(file(name)))).get('multiView');
      return noted ? readStringVector(noted) : null;
    };
    expect(viewsOf('views/orr_010_layers.1001.exr')).toEqual(['beauty', 'depth']);
    if (reader) expect(execFileSync('oiiotool', ['--info', '-v', file('views/orr_010_layers.1001.exr')], { encoding: 'utf8' })).toContain('depth.Z');
    await undo(gathered);
    // A file that somebody else made of two views, as a frame of the beauty.
    const views = { multiView: stringVector(['left', 'right']) };
    const data = Float32Array.of(0.25, 0.5);
    const channels = ['R', 'G', 'B', 'right.R', 'right.G', 'right.B'].map((name, i) => ({ name, type: 'float' as const, data: data.map((v) => v + i) }));
    const window = [0, 0, 1, 0] as const;
    const picture = { dataWindow: window, displayWindow: window, pixelAspect: 1, compression: 'none' as const, channels, metadata: {} };
    const before = readFileSync(file('beauty/beauty.1001.exr'));
    writeFileSync(file('beauty/beauty.1001.exr'), encodeExr({ ...picture, kept: new Map(Object.entries(views)) }, codecTools));
    const split = await mend({ kind: 'convert', frames: '1001', passes: ['beauty'], to: { format: 'exr', layers: 'split', into: 'split' } });
    expect(readdirSync(file('split/beauty')).sort()).toEqual(['beauty.1001.exr', 'beauty_right.1001.exr']);
    for (const name of readdirSync(file('split/beauty'))) expect(viewsOf(`split/beauty/${name}`)).toBe(null);
    await undo(split);
    writeFileSync(file('beauty/beauty.1001.exr'), before);
  });

  it('says which file stopped it, and what was done stays done', async () => {
    const { wish, seen } = await preview({ kind: 'convert', passes: ['beauty'], to: { format: 'exr', compression: 'piz' } });
    const bytes = readFileSync(file('beauty/beauty.1006.exr'));
    // As long as before and as old, but not what it was.
    writeFileSync(file('beauty/beauty.1006.exr'), Buffer.alloc(bytes.length, 7));
    const stopped = await act('apply', wish, seen);
    expect(stopped.error!.message).toContain('beauty.1006.exr has changed since the preview');
    const [left] = await readMends(folder);
    await undo(left!.head.id);
    expect(readdirSync(file('beauty'))).toHaveLength(FRAMES);
  });
});

function planes(name: string): string | null {
  if (!reader) return null;
  return execFileSync('oiiotool', [file(name), '--hash', '-v', '--info'], { encoding: 'utf8' }).match(/SHA-1: \w+/)?.[0] ?? null;
}
const stats = (args: string[]) =>
  /Stats Avg: ([\d. ]+)/
    .exec(execFileSync('oiiotool', args, { encoding: 'utf8' }))![1]!
    .trim()
    .split(/\s+/)
    .map(Number);
/** Means of the channels in the order in which the library gives them, as light or as codes of 0..1. */
function meansOf(name: string): number[] {
  return stats([file(name), '--ch', 'R,G,B', '--addc', '0', '--printstats']);
}
function clippedMeansOf(name: string): number[] {
  return stats([file(name), '--ch', 'R,G,B', '--clamp:min=0:max=1', '--printstats']);
}
