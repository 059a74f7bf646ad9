import { createHash } from 'node:crypto';
import { copyFileSync, mkdirSync, mkdtempSync, readFileSync, renameSync, rmSync, truncateSync, utimesSync, writeFileSync } from 'node:fs';
import os from 'node:os';
import path from 'node:path';
import fc from 'fast-check';
import { FACTS_EDITION, parseBrief, type Tally } from '@mint-tally/core';
import { afterAll, beforeAll, beforeEach, describe, expect, it } from 'vitest';
import { pngBytes, writeSequence } from '../../../tests/support/frames.ts';
import { countFolder, InspectionPool, type CountOptions, type CountResult, type KnownFile } from '../src/index.ts';

const FRAMES = Array.from({ length: 12 }, (_, i) => 1001 + i);
const brief = parseBrief({
  shot: 'orr_010',
  range: '1001-1012',
  passes: [
    { name: 'beauty', role: 'beauty', pattern: 'beauty.####.png', depth: '8' },
    { name: 'matte', role: 'matte', pattern: 'matte/matte.####.png' },
  ],
});

let pool: InspectionPool;
let folder: string;
let clock = 1_700_000_000;

beforeAll(() => void (pool = new InspectionPool(2)));
afterAll(() => pool.close());
beforeEach(() => {
  folder = mkdtempSync(path.join(os.tmpdir(), 'mint-recount-'));
  writeSequence(folder, 1001, 1012);
  writeSequence(folder, 1001, 1012, (frame) => `matte/matte.${frame}.png`);
  return () => rmSync(folder, { recursive: true, force: true });
});

const at = (name: string) => path.join(folder, name);
const pathOf = (pass: number, frame: number) => (pass === 0 ? `beauty.${frame}.png` : `matte/matte.${frame}.png`);

/** What a database keeps from count to count. */
class Kept {
  readonly known = new Map<string, KnownFile>();
  previous: CountOptions['previous'] = null;

  async count(more: Partial<CountOptions> = {}): Promise<CountResult> {
    const result = await countFolder({
      folder,
      brief,
      level: 'full',
      pool,
      proxyFolder: null,
      now: Date.now() + 3_600_000,
      known: async () => new Map(this.known),
      previous: this.previous,
      onInspected: ({ path, ...file }) => void this.known.set(path, file),
      ...more,
    });
    if (result.complete) this.previous = { listing: result.listing, tally: result.tally };
    return result;
  }
}

const codes = (tally: Tally) => tally.findings.map(({ code, pass, frames }) => `${code} ${pass} ${frames}`).sort();

describe('counting again', () => {
  it('opens every file once, then none, then only what changed', async () => {
    const kept = new Kept();
    expect(await kept.count()).toMatchObject({ opened: 24, files: 24, complete: true });
    expect(await kept.count()).toMatchObject({ opened: 0, counted: null });
    writeFileSync(at('beauty.1004.png'), pngBytes(77));
    truncateSync(at('matte/matte.1009.png'), 100);
    rmSync(at('beauty.1012.png'));
    const third = await kept.count();
    expect(third.opened).toBe(2);
    expect(codes(third.tally)).toEqual(['missing-frame beauty 1012', 'truncated matte 1009']);
    expect(third.changes).toMatchObject({ replaced: { count: 2 }, vanished: { count: 1, paths: ['beauty.1012.png'] }, arrived: { count: 0 } });
  });

  it('counts anew when the brief has changed although no file has', async () => {
    const kept = new Kept();
    await kept.count();
    const other = parseBrief({ ...brief, range: '1001-1013' });
    const result = await kept.count({ brief: other });
    expect(result.opened).toBe(0);
    expect(codes(result.tally)).toEqual(['missing-frame beauty 1013', 'missing-frame matte 1013']);
  });

  it('looks again at what an older edition found, and at what was looked at less closely', async () => {
    const kept = new Kept();
    await kept.count({ level: 'headers' });
    expect((await kept.count()).opened).toBe(24);
    kept.previous = null;
    for (const frame of [1002, 1003]) {
      const known = kept.known.get(pathOf(0, frame))!;
      kept.known.set(pathOf(0, frame), { ...known, facts: { ...known.facts, edition: FACTS_EDITION - 1 } });
    }
    expect((await kept.count()).opened).toBe(2);
    expect((await kept.count({ level: 'headers' })).opened).toBe(0);
  });

  it('knows the same of files that it looks at by itself as of those that threads look at', async () => {
    truncateSync(at('matte/matte.1009.png'), 100);
    truncateSync(at('matte/matte.1010.png'), 0);
    const [threads, alone] = [new Kept(), new Kept()];
    await threads.count();
    const without = new InspectionPool(2, undefined, 100);
    expect(await alone.count({ pool: without })).toMatchObject({ opened: 24 });
    await without.close();
    expect(alone.known).toEqual(threads.known);
    for (const [name, { sha256 }] of alone.known)
      expect([name, sha256]).toEqual([
        name,
        createHash('sha256')
          .update(readFileSync(at(name)))
          .digest('hex'),
      ]);
  });

  it('does not let a count stand that may be well by now', async () => {
    const kept = new Kept();
    await kept.count();
    const known = kept.known.get('beauty.1006.png')!;
    const problem = { code: 'unreadable' as const, message: 'The share did not answer.' };
    kept.known.set('beauty.1006.png', { ...known, facts: { ...known.facts, problem } });
    kept.previous = null;
    const result = await kept.count();
    expect(result.opened).toBe(1);
    expect(result.tally.ready).toBe(true);
  });

  it('says that it was stopped, and goes on from there', async () => {
    const kept = new Kept();
    let seen = 0;
    const stopped = await kept.count({ stopped: () => seen >= 5, onProgress: ({ done }) => void (seen = done) });
    expect(stopped.complete).toBe(false);
    const done = kept.known.size;
    expect(done).toBeGreaterThanOrEqual(5);
    expect(done).toBeLessThan(24);
    expect(await kept.count()).toMatchObject({ complete: true, opened: 24 - done });
  });

  it('tells its progress in files and bytes, to the end', async () => {
    const seen: number[] = [];
    let bytes: [number, number] = [0, 0];
    await new Kept().count({
      onProgress: ({ done, bytesDone, bytesTotal }) => {
        seen.push(done);
        bytes = [bytesDone, bytesTotal];
      },
    });
    // Several are looked at side by side, so some are told together; none is told twice in a row backwards.
    expect(seen).toEqual([...seen].sort((a, b) => a - b));
    expect([seen.length, seen[0], seen.at(-1)]).toEqual([25, 0, 24]);
    expect(bytes[0]).toBe(bytes[1]);
  });

  it('comes to the same as counting from nothing, whatever happened in between', async () => {
    const change = fc.oneof(
      fc
        .record({ kind: fc.constantFrom('remove', 'cut', 'empty', 'replace', 'touch', 'rename', 'copy') })
        .chain(({ kind }) => fc.record({ kind: fc.constant(kind), pass: fc.nat(1), frame: fc.constantFrom(...FRAMES), other: fc.constantFrom(...FRAMES) })),
    );
    await fc.assert(
      fc.asyncProperty(fc.array(fc.array(change, { maxLength: 4 }), { minLength: 1, maxLength: 3 }), async (rounds) => {
        rmSync(folder, { recursive: true, force: true });
        writeSequence(folder, 1001, 1012);
        writeSequence(folder, 1001, 1012, (frame) => `matte/matte.${frame}.png`);
        const kept = new Kept();
        await kept.count();
        for (const changes of rounds) {
          for (const one of changes) apply(one);
          const again = await kept.count();
          const anew = await new Kept().count();
          expect(again.tally).toEqual(anew.tally);
          expect(again.listing).toBe(anew.listing);
          expect(again.files).toBe(anew.files);
        }
      }),
      { numRuns: 25 },
    );
  });
});

/** Does one thing to the folder; what is not there any more cannot be changed. Every file gets a time of its own. */
function apply({ kind, pass, frame, other }: { kind: string; pass: number; frame: number; other: number }): void {
  const [file, target] = [at(pathOf(pass, frame)), at(pathOf(1 - pass, other))];
  mkdirSync(path.dirname(target), { recursive: true });
  try {
    if (kind === 'remove') rmSync(file);
    else if (kind === 'cut') truncateSync(file, 60 + (frame % 50));
    else if (kind === 'empty') truncateSync(file, 0);
    else if (kind === 'replace') writeFileSync(file, pngBytes(frame * 31 + other));
    else if (kind === 'rename') renameSync(file, at(`beauty_${frame}.png`));
    else if (kind === 'copy') copyFileSync(file, target);
    const changed = kind === 'copy' ? target : file;
    if (kind !== 'remove' && kind !== 'rename') utimesSync(changed, ++clock, clock);
  } catch (thrown) {
    if ((thrown as NodeJS.ErrnoException).code !== 'ENOENT') throw thrown;
  }
}

describe('the threads', () => {
  it.each([
    ['headers', 1],
    ['headers', 32],
    ['headers', 333],
    ['full', 70],
  ] as const)('look at every file once: %s, %i files', async (level, files) => {
    const tasks = Array.from({ length: files }, (_, i) => ({ folder, path: pathOf(0, FRAMES[i % FRAMES.length]), level, proxies: null, number: i }));
    const seen: number[] = [];
    await pool.inspectAll(tasks, (task, { facts, sha256 }) => {
      seen.push((task as (typeof tasks)[number]).number);
      expect(facts.problem).toBeNull();
      expect(sha256 === null).toBe(level === 'headers');
    });
    expect(seen.sort((a, b) => a - b)).toEqual(tasks.map((_, i) => i));
  });

  it('begin nothing more once they are told to stop', async () => {
    let done = 0;
    const tasks = Array.from({ length: 400 }, () => ({ folder, path: 'beauty.1001.png', level: 'headers' as const, proxies: null }));
    await pool.inspectAll(
      tasks,
      () => void done++,
      () => done > 0,
    );
    expect(done).toBeGreaterThan(0);
    expect(done).toBeLessThan(400);
  });

  it('hand an error of the one who listens on to the one who asked', async () => {
    const task = { folder, path: 'beauty.1001.png', level: 'full' as const, proxies: null };
    await expect(
      pool.inspectAll([task], () => {
        throw new Error('the database is away');
      }),
    ).rejects.toThrow('the database is away');
  });
});
