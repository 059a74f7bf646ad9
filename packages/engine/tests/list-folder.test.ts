import { mkdirSync, mkdtempSync, rmSync, symlinkSync, utimesSync, writeFileSync } from 'node:fs';
import os from 'node:os';
import path from 'node:path';
import fc from 'fast-check';
import { afterEach, beforeEach, describe, expect, it } from 'vitest';
import { listFolder } from '../src/index.ts';

let folder: string;
beforeEach(() => void (folder = mkdtempSync(path.join(os.tmpdir(), 'mint-list-'))));
afterEach(() => rmSync(folder, { recursive: true, force: true }));

/** Writes files of a given size by relative path; folders are made. */
function write(files: Readonly<Record<string, number>>): void {
  for (const [name, size] of Object.entries(files)) {
    mkdirSync(path.dirname(path.join(folder, name)), { recursive: true });
    writeFileSync(path.join(folder, name), Buffer.alloc(size));
  }
}

const byPath = <Entry extends { path: string }>(entries: readonly Entry[]) => [...entries].sort((a, b) => (a.path < b.path ? -1 : 1));

describe('listing a folder', () => {
  it('gives every file once, with its path, size and time', async () => {
    write({ 'a.0001.png': 3, 'beauty/b.0001.exr': 70_000, 'beauty/deep/er/c.exr': 0, 'x y/\u00e9\u00e8.png': 1 });
    const time = new Date('2026-03-04T05:06:07.891Z');
    utimesSync(path.join(folder, 'a.0001.png'), time, time);
    const { files, unreadable } = await listFolder(folder, { stats: true });
    expect(unreadable).toEqual([]);
    expect(byPath(files).map((file) => [file.path, file.size, file.kind])).toEqual([
      ['a.0001.png', 3, 'file'],
      ['beauty/b.0001.exr', 70_000, 'file'],
      ['beauty/deep/er/c.exr', 0, 'file'],
      ['x y/\u00e9\u00e8.png', 1, 'file'],
    ]);
    expect(files.find((file) => file.path === 'a.0001.png')!.modified).toBe(time.getTime());
  });

  it('is the same by names alone, without sizes and times', async () => {
    write({ 'a.0001.png': 3, 'beauty/b.0001.exr': 7 });
    const { files } = await listFolder(folder, { stats: false });
    expect(byPath(files)).toEqual(['a.0001.png', 'beauty/b.0001.exr'].map((name) => ({ path: name, size: 0, modified: 0, kind: 'file' })));
  });

  it('follows links that stay inside, each folder once', async () => {
    write({ 'shot/a.0001.png': 3, 'elsewhere/b.0001.png': 5 });
    symlinkSync('../elsewhere', path.join(folder, 'shot/more'));
    symlinkSync('a.0001.png', path.join(folder, 'shot/same.0001.png'));
    symlinkSync('..', path.join(folder, 'shot/up'));
    const { files } = await listFolder(path.join(folder, 'shot'), { stats: true });
    // What leads out of the folder that is listed is not followed.
    expect(byPath(files).map(({ path, size, kind }) => [path, size, kind])).toEqual([
      ['a.0001.png', 3, 'file'],
      ['more', 0, 'special'],
      ['same.0001.png', 3, 'file'],
      ['up', 0, 'special'],
    ]);
  });

  it('says which folder could not be read, and lists the others', async () => {
    write({ 'a.0001.png': 3 });
    await expect(listFolder(path.join(folder, 'nothing'), { stats: true })).rejects.toMatchObject({ code: 'not-found' });
    await expect(listFolder(path.join(folder, 'a.0001.png'), { stats: true })).rejects.toMatchObject({ code: 'not-found' });
  });

  it('finds what was written, whatever the tree is like', async () => {
    const part = fc
      .string({ unit: fc.constantFrom('a', 'B', '0', '.', '-', ' ', '\u00fc', '\u{1f3ac}'), minLength: 1, maxLength: 12 })
      .filter((text) => !/^\.{1,2}$/.test(text));
    const tree = fc.dictionary(
      fc.array(part, { minLength: 1, maxLength: 4 }).map((parts) => parts.join('/')),
      fc.nat(300),
      { maxKeys: 20 },
    );
    await fc.assert(
      fc.asyncProperty(tree, async (wanted) => {
        rmSync(folder, { recursive: true, force: true });
        mkdirSync(folder);
        // A name cannot be a file and a folder at once.
        const names = Object.keys(wanted).filter((name) => !Object.keys(wanted).some((other) => other.startsWith(`${name}/`)));
        write(Object.fromEntries(names.map((name) => [name, wanted[name]])));
        for (const stats of [true, false]) {
          const { files } = await listFolder(folder, { stats });
          expect(byPath(files).map(({ path, size }) => [path, size])).toEqual(
            byPath(names.map((path) => ({ path }))).map(({ path }) => [path, stats ? wanted[path] : 0]),
          );
        }
      }),
      { numRuns: 60 },
    );
  });
});
