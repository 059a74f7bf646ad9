import { cpSync, existsSync, readdirSync, readFileSync, rmSync, truncateSync, writeFileSync } from 'node:fs';
import path from 'node:path';
import { mendWishSchema, SET_ASIDE } from '@mint-tally/core';
import { describe, expect, it } from 'vitest';
import { renderLit, writeLitShot } from '../../../tests/support/lit-shot.ts';
import { planMend, readMends } from '../src/index.ts';
import { beginMending, FRAMES, PASSES, order, top, folder, tree, file, act, count, preview, mend, undo } from '../../../tests/support/mending.ts';

beginMending();

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
