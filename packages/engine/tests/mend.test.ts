import { spawn, spawnSync } from 'node:child_process';
import { createHash } from 'node:crypto';
import { appendFileSync, existsSync, mkdirSync, mkdtempSync, readdirSync, readFileSync, rmSync, statSync, writeFileSync } from 'node:fs';
import os from 'node:os';
import path from 'node:path';
import { setTimeout as sleep } from 'node:timers/promises';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { runMend } from '../src/mending/command.ts';
import { servicesFolder } from '../src/index.ts';

interface Printed {
  steps: { action: string; from: string; to: string; reason: string }[];
  conflicts: { files: string[]; message: string }[];
  applied: boolean;
}

let top = '';
beforeAll(() => {
  top = mkdtempSync(path.join(os.tmpdir(), 'mint-mend-'));
});
afterAll(() => rmSync(top, { recursive: true, force: true }));

const brief = (last = 1004) => ({ shot: 'orr_010', range: `1001-${last}`, passes: [{ name: 'beauty', pattern: 'beauty/beauty.####.exr' }] });

/** A folder with files, each of content of its own, and the brief beside it. */
function makeFolder(names: readonly string[], last?: number): string {
  const folder = mkdtempSync(path.join(top, 'shot-'));
  for (const name of names) put(folder, name, `the picture of ${name}`);
  writeFileSync(`${folder}.json`, JSON.stringify(brief(last)));
  return folder;
}

function put(folder: string, name: string, content: string) {
  mkdirSync(path.dirname(path.join(folder, name)), { recursive: true });
  writeFileSync(path.join(folder, name), content);
}

/** Every folder, and every file with a checksum of its content. */
function treeOf(folder: string): string[] {
  return readdirSync(folder, { recursive: true, encoding: 'utf8' })
    .map((name) => {
      const file = path.join(folder, name);
      return statSync(file).isDirectory() ? `${name}/` : `${name} ${createHash('sha256').update(readFileSync(file)).digest('hex')}`;
    })
    .sort();
}

async function mend(folder: string, ...more: string[]) {
  const { status, output, error } = await runMend(
    [folder, '--json', ...(more.includes('--undo') ? [] : ['--brief', `${folder}.json`]), ...more],
    () => undefined,
  );
  return { status, error, printed: (output === '' ? {} : JSON.parse(output)) as Printed };
}

const contentAt = (folder: string, name: string) => readFileSync(path.join(folder, name), 'utf8');

describe('mint mend', () => {
  it('changes nothing without --apply, does what it said with it, and takes it back to the bytes', async () => {
    const folder = makeFolder(['beauty/beauty.1001.exr', 'beauty/Beauty.1002.EXR', 'beauty/beauty.01003.exr']);
    const before = treeOf(folder);
    const preview = await mend(folder, '--rename');
    expect([preview.status, preview.printed.applied, preview.printed.conflicts]).toEqual([0, false, []]);
    expect(preview.printed.steps.map(({ action, from, to }) => [action, from, to])).toEqual([
      ['rename', 'beauty/Beauty.1002.EXR', 'beauty/beauty.1002.exr'],
      ['rename', 'beauty/beauty.01003.exr', 'beauty/beauty.1003.exr'],
    ]);
    expect(treeOf(folder)).toEqual(before);
    const applied = await mend(folder, '--rename', '--apply');
    expect(applied).toMatchObject({ status: 0, printed: { ...preview.printed, applied: true } });
    expect(contentAt(folder, 'beauty/beauty.1002.exr')).toBe('the picture of beauty/Beauty.1002.EXR');
    expect((await mend(folder, '--rename', '--apply')).printed).toEqual({ steps: [], conflicts: [], applied: true });
    expect((await mend(folder, '--undo')).status).toBe(0);
    expect(treeOf(folder)).toEqual(before);
    expect((await mend(folder, '--undo')).printed).toEqual({ steps: [], conflicts: [], applied: false });
    expect(treeOf(folder)).toEqual(before);
  });

  it('shifts numbers over each other, and takes several mends back one by one', async () => {
    const folder = makeFolder([1, 2, 3, 4].map((frame) => `beauty/beauty.000${frame}.exr`));
    const before = treeOf(folder);
    await mend(folder, '--renumber', '1', '--apply');
    expect(contentAt(folder, 'beauty/beauty.0005.exr')).toBe('the picture of beauty/beauty.0004.exr');
    const between = treeOf(folder).filter((line) => !line.startsWith('.mint'));
    await mend(folder, '--renumber', '-2', '--apply');
    expect(contentAt(folder, 'beauty/beauty.0003.exr')).toBe('the picture of beauty/beauty.0004.exr');
    await mend(folder, '--undo');
    expect(treeOf(folder).filter((line) => !line.startsWith('.mint'))).toEqual(between);
    await mend(folder, '--undo');
    expect(treeOf(folder)).toEqual(before);
  });

  it('sets aside what was not ordered, where no count sees it', async () => {
    const folder = makeFolder(['beauty/beauty.1001.exr', 'beauty/beauty.1009.exr', 'notes/read me.txt']);
    const before = treeOf(folder);
    await mend(folder, '--trim', '--apply');
    expect(treeOf(folder).filter((line) => !line.startsWith('.mint') && !line.endsWith('/'))).toHaveLength(1);
    expect((await mend(folder, '--trim')).printed.steps).toEqual([]);
    await mend(folder, '--undo');
    expect(treeOf(folder)).toEqual(before);
  });

  it('carries out a plan with a ring, a copy and a new folder, which goes again', async () => {
    const folder = makeFolder(['a.exr', 'b.exr', 'c.exr']);
    const before = treeOf(folder);
    const plan = `${folder}-plan.json`;
    const step = (action: string, from: string, to: string) => ({ action, from, to, reason: 'as it was meant' });
    const steps = [
      step('rename', 'a.exr', 'b.exr'),
      step('rename', 'b.exr', 'a.exr'),
      step('write', 'c.exr', 'held/deep/d.exr'),
      step('write', `${folder}.json`, 'brief.json'),
    ];
    writeFileSync(plan, JSON.stringify({ steps }));
    expect((await mend(folder, '--plan', plan, '--apply')).status).toBe(0);
    expect(['a.exr', 'b.exr', 'held/deep/d.exr'].map((name) => contentAt(folder, name))).toEqual(
      ['b.exr', 'a.exr', 'c.exr'].map((name) => `the picture of ${name}`),
    );
    await mend(folder, '--undo');
    expect(treeOf(folder)).toEqual(before);
  });

  it('does nothing at all where something stands against a part of it', async () => {
    const folder = makeFolder(['beauty/beauty.1001.exr', 'beauty/beauty.01001.exr', 'beauty/beauty.01002.exr']);
    const before = treeOf(folder);
    const { status, printed } = await mend(folder, '--rename', '--apply');
    expect([status, printed.applied, printed.conflicts.length]).toEqual([1, false, 1]);
    expect(treeOf(folder)).toEqual(before);
  });

  it('leaves alone what has changed since, and says so', async () => {
    const folder = makeFolder(['beauty/Beauty.1001.exr', 'beauty/Beauty.1002.exr']);
    await mend(folder, '--rename', '--apply');
    put(folder, 'beauty/beauty.1001.exr', 'rendered again');
    const refused = await mend(folder, '--undo');
    expect([refused.status, refused.error]).toEqual([2, expect.stringContaining('beauty.1001.exr has changed since it was put there') as string]);
    expect(contentAt(folder, 'beauty/beauty.1001.exr')).toBe('rendered again');
    // What was taken back before stands, and is not forgotten.
    rmSync(path.join(folder, 'beauty/beauty.1001.exr'));
    put(folder, 'beauty/beauty.1001.exr', 'the picture of beauty/Beauty.1001.exr');
    expect((await mend(folder, '--undo')).status).toBe(0);
    expect(treeOf(folder).map((line) => line.split(' ')[0])).toEqual(['beauty/', 'beauty/Beauty.1001.exr', 'beauty/Beauty.1002.exr']);
  });

  it('stops where it cannot go on, keeps what was done, and takes that back', async () => {
    const folder = makeFolder(['a.exr', 'c.exr']);
    const before = treeOf(folder);
    const steps = [
      { action: 'rename', from: 'a.exr', to: 'b.exr' },
      { action: 'rename', from: 'c.exr', to: 'b.exr/c.exr' },
    ];
    writeFileSync(`${folder}-plan.json`, JSON.stringify({ steps }));
    expect(await mend(folder, '--plan', `${folder}-plan.json`, '--apply')).toMatchObject({ status: 2, error: expect.stringContaining('b.exr') as string });
    expect(contentAt(folder, 'b.exr')).toBe('the picture of a.exr');
    expect(contentAt(folder, 'c.exr')).toBe('the picture of c.exr');
    expect((await mend(folder, '--undo')).status).toBe(0);
    expect(treeOf(folder)).toEqual(before);
  });

  it('holds the folder against another', async () => {
    const folder = makeFolder(['beauty/Beauty.1001.exr']);
    put(folder, '.mint-set-aside/lock', 'process 1 on another computer');
    expect(await mend(folder, '--rename', '--apply')).toMatchObject({
      status: 2,
      error: expect.stringContaining('is being mended by process 1 on another computer') as string,
    });
    expect(existsSync(path.join(folder, 'beauty/Beauty.1001.exr'))).toBe(true);
  });

  it.each([
    ['no wish', [], 'It was not said what is to be mended'],
    ['two wishes', ['--rename', '--trim'], 'One thing is mended at a time'],
    ['no number', ['--renumber', 'many'], 'many is no number of frames'],
    ['an undo of something', ['--undo', '--rename'], '--undo stands alone'],
    ['a plan that is none', ['--plan', 'PLAN'], 'is no plan'],
  ])('is told of %s', async (_, words, says) => {
    const folder = makeFolder(['beauty/beauty.1001.exr']);
    writeFileSync(`${folder}-bad.json`, '{ "steps": [{ "action": "delete", "from": "a", "to": "b" }] }');
    const { status, error } = await mend(folder, ...words.map((word) => (word === 'PLAN' ? `${folder}-bad.json` : word)));
    expect([status, error]).toEqual([2, expect.stringContaining(says) as string]);
  });
});

describe('a mend that the disk stops', () => {
  /** A disk of its own for a shot; null where nobody lets us have one. */
  function makeDisk(folder: string, size: string): string | null {
    const disk = path.join(folder, 'beauty');
    mkdirSync(disk);
    return spawnSync('mount', ['-t', 'tmpfs', '-o', `size=${size}`, 'tmpfs', disk]).status === 0 ? disk : null;
  }
  const remount = (disk: string, options: string) => expect(spawnSync('mount', ['-o', `remount,${options}`, disk]).status).toBe(0);

  it('says which file had no room or was refused, leaves nothing half written, and goes on later', async () => {
    const folder = makeFolder([]);
    const other = mkdtempSync(path.join(top, 'other-'));
    const names = [1001, 1002, 1003].map((frame) => `beauty.${frame}.exr`);
    for (const name of names) put(other, name, name.repeat(300));
    const disk = makeDisk(folder, '8k');
    if (disk === null) return expect(process.getuid!()).not.toBe(0);
    try {
      const steps = names.map((name) => ({ action: 'write', from: path.join(other, name), to: `beauty/${name}`, reason: '' }));
      writeFileSync(`${folder}-plan.json`, JSON.stringify({ steps }));
      const apply = () => mend(folder, '--plan', `${folder}-plan.json`, '--apply');
      const there = () => readdirSync(disk).sort();
      const full = await apply();
      expect([full.status, full.error]).toEqual([
        2,
        expect.stringMatching(/Stopped after \d of 3 moves\. The disk is full: there was no room for .*beauty\.100\d\.exr/),
      ]);
      expect(there().every((name) => names.includes(name))).toBe(true);
      remount(disk, 'size=1m,ro');
      const refused = await mend(folder, '--rename', '--apply');
      expect([refused.status, refused.error]).toEqual([2, expect.stringMatching(/beauty\.100\d\.exr: permission refused \(EROFS\)/)]);
      remount(disk, 'rw');
      expect((await mend(folder, '--rename', '--apply')).status).toBe(0);
      expect(there()).toEqual(names);
      expect((await mend(folder, '--undo')).status).toBe(0);
      expect(there()).toEqual([]);
    } finally {
      spawnSync('umount', [disk]);
    }
  });
});

describe('a mend that is killed', () => {
  const COUNT = 150;
  const names = Array.from({ length: COUNT }, (_, i) => `beauty/beauty.${1001 + i}.exr`);

  /** Every frame goes to its neighbour's place, the last one to the first's. */
  function makeRing(): { folder: string; plan: string } {
    const folder = makeFolder(names, 1000 + COUNT);
    const steps = names.map((from, i) => ({ action: 'rename', from, to: names[(i + 1) % COUNT]!, reason: '' }));
    writeFileSync(`${folder}-plan.json`, JSON.stringify({ steps }));
    return { folder, plan: `${folder}-plan.json` };
  }

  /** Runs the command as a process of its own and kills it once so many lines stand in its journal. */
  async function killedAt(folder: string, lines: number, ...words: string[]): Promise<void> {
    const child = spawn(process.execPath, [path.join(servicesFolder(), 'mend.js'), folder, ...words], { stdio: 'ignore' });
    const ended = new Promise<void>((resolve) => child.once('exit', () => resolve()));
    while (child.exitCode === null && linesIn(folder) < lines) await sleep(1);
    child.kill('SIGKILL');
    await ended;
  }

  function linesIn(folder: string): number {
    const aside = path.join(folder, '.mint-set-aside');
    const journal = (existsSync(aside) ? readdirSync(aside) : []).map((name) => path.join(aside, name, 'journal.jsonl')).find(existsSync);
    return journal ? readFileSync(journal, 'utf8').split('\n').length : 0;
  }

  const turned = (folder: string) => names.every((name, i) => contentAt(folder, name) === `the picture of ${names[(i + COUNT - 1) % COUNT]!}`);

  it.each([3, 20, 77, 140, 222])('is gone on with, and is taken back, from line %i of its journal', async (lines) => {
    const { folder, plan } = makeRing();
    const before = treeOf(folder);
    const words = ['--brief', `${folder}.json`, '--plan', plan, '--apply'];
    await killedAt(folder, lines, ...words);
    // A preview says that something was broken off.
    expect((await mend(folder, '--rename')).error).toContain('was broken off in the middle');
    if (lines % 2 === 0) {
      expect((await mend(folder, '--rename', '--apply')).status).toBe(0);
      expect(turned(folder)).toBe(true);
    }
    await killedAt(folder, linesIn(folder) + lines / 2, '--undo');
    expect(await mend(folder, '--undo')).toMatchObject({ status: 0 });
    expect(treeOf(folder)).toEqual(before);
  });

  it('is not led astray by a line that the fall cut', async () => {
    const { folder, plan } = makeRing();
    const before = treeOf(folder);
    await killedAt(folder, 30, '--brief', `${folder}.json`, '--plan', plan, '--apply');
    const aside = path.join(folder, '.mint-set-aside');
    const [journal] = readdirSync(aside)
      .map((name) => path.join(aside, name, 'journal.jsonl'))
      .filter(existsSync);
    appendFileSync(journal!, '{"kind":"beg');
    expect((await mend(folder, '--rename', '--apply')).status).toBe(0);
    expect(turned(folder)).toBe(true);
    expect((await mend(folder, '--undo')).status).toBe(0);
    expect(treeOf(folder)).toEqual(before);
  });

  it('leaves nothing half written behind when a copy that it cut is taken back', async () => {
    const folder = makeFolder(['beauty/beauty.1001.exr']);
    const other = mkdtempSync(path.join(top, 'other-'));
    put(other, 'a.exr', 'the other picture');
    const before = treeOf(folder);
    const steps = [{ action: 'write', from: path.join(other, 'a.exr'), to: 'beauty/beauty.1002.exr', reason: '' }];
    writeFileSync(`${folder}-plan.json`, JSON.stringify({ steps }));
    expect((await mend(folder, '--plan', `${folder}-plan.json`, '--apply')).status).toBe(0);
    // As it stands while the bytes are on their way.
    const [name] = readdirSync(path.join(folder, '.mint-set-aside'));
    const journal = path.join(folder, '.mint-set-aside', name!, 'journal.jsonl');
    writeFileSync(journal, `${readFileSync(journal, 'utf8').split('\n').slice(0, 2).join('\n')}\n`);
    rmSync(path.join(folder, 'beauty/beauty.1002.exr'));
    put(folder, 'beauty/beauty.1002.exr.part', 'the oth');
    expect((await mend(folder, '--undo')).status).toBe(0);
    expect(treeOf(folder)).toEqual(before);
  });
});
