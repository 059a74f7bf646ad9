import {
  closeSync,
  existsSync,
  linkSync,
  lstatSync,
  mkdirSync,
  mkdtempSync,
  readdirSync,
  readFileSync,
  realpathSync,
  renameSync,
  rmSync,
  symlinkSync,
  writeFileSync,
  writeSync,
} from 'node:fs';
import os from 'node:os';
import path from 'node:path';
import fc from 'fast-check';
import { afterEach, beforeEach, describe, expect, it } from 'vitest';
import { HeldFolder, isInside, moveInto, openAnew, replaceWhole, writeWhole } from '../src/index.ts';

let top: string;
const at = (...parts: string[]) => path.join(top, ...parts);

beforeEach(() => {
  top = mkdtempSync(path.join(os.tmpdir(), 'mint-disk-'));
  for (const folder of ['root/shot', 'root/elsewhere', 'outside']) mkdirSync(at(folder), { recursive: true });
});
afterEach(() => rmSync(top, { recursive: true, force: true }));

const everythingOutside = () => readdirSync(at('outside'), { recursive: true });

describe('a folder that is written into', () => {
  it('is made with all that is missing on the way', () => {
    const folder = HeldFolder.open(at('root'), 'shot/a/b/c');
    writeFileSync(folder.at('x'), 'here');
    expect(folder.where()).toBe(at('root/shot/a/b/c'));
    expect(readFileSync(at('root/shot/a/b/c/x'), 'utf8')).toBe('here');
    folder.close();
  });

  it('may be reached through links that stay below what is allowed', () => {
    symlinkSync(at('root/elsewhere'), at('root/shot/beauty'));
    const folder = HeldFolder.open(at('root'), 'shot/beauty/deep');
    expect(folder.where()).toBe(at('root/elsewhere/deep'));
    folder.close();
  });

  it.each([
    ['a link that leads out', (place: string) => symlinkSync(at('outside'), place), ''],
    ['a link that leads out, with more behind it', (place: string) => symlinkSync(at('outside'), place), '/new/newer'],
    ['a link to a link', (place: string) => (symlinkSync(at('outside'), at('root/hop')), symlinkSync(at('root/hop'), place)), '/new'],
    ['a relative link', (place: string) => symlinkSync('../../outside', place), '/new'],
    ['a link that leads nowhere yet', (place: string) => symlinkSync(at('outside/later'), place), '/new'],
  ])('is refused behind %s', (_, put, behind) => {
    put(at('root/shot/beauty'));
    expect(() => HeldFolder.open(at('root'), `shot/beauty${behind}`)).toThrow(expect.objectContaining({ name: 'FileAccessError' }));
    expect(() => replaceWhole(at('root/shot'), `beauty${behind}/f.png`, Buffer.from('x'))).toThrow();
    expect(everythingOutside()).toEqual([]);
  });

  it.each(['../x', '/etc', 'a/../../x', 'a\0b'])('is refused at %j', (relative) => {
    expect(() => HeldFolder.open(at('root'), relative)).toThrow(expect.objectContaining({ code: 'outside-root' }));
  });

  it('stays the one that was opened when a link is put in its place', async () => {
    const folder = HeldFolder.open(at('root'), 'shot/beauty');
    renameSync(at('root/shot/beauty'), at('root/shot/moved'));
    symlinkSync(at('outside'), at('root/shot/beauty'));
    await writeWhole(folder, 'f.png', 'kept inside');
    const deeper = folder.below('more/and/more');
    await writeWhole(deeper, 'g.png', 'kept inside');
    expect(everythingOutside()).toEqual([]);
    expect(readdirSync(at('root/shot/moved'), { recursive: true }).sort()).toContain('more/and/more/g.png');
    deeper.close();
    folder.close();
  });

  it('steps through no link that is put there in the middle', () => {
    const folder = HeldFolder.open(at('root'), 'shot');
    symlinkSync(at('outside'), at('root/shot/trap'));
    expect(() => folder.below('trap/new')).toThrow(expect.objectContaining({ code: 'outside-root' }));
    expect(everythingOutside()).toEqual([]);
    folder.close();
  });

  it('never lets anything out, however links are strewn', () => {
    const names = ['a', 'b', 'c'];
    const targets = ['outside', 'root', 'root/shot', 'root/elsewhere', 'outside/new', '.'];
    fc.assert(
      fc.property(
        fc.array(fc.record({ place: fc.array(fc.constantFrom(...names), { minLength: 1, maxLength: 3 }), target: fc.constantFrom(...targets) }), {
          maxLength: 4,
        }),
        fc.array(fc.constantFrom(...names), { minLength: 1, maxLength: 4 }),
        (links, wanted) => {
          for (const folder of ['root', 'outside']) rmSync(at(folder), { recursive: true, force: true });
          for (const folder of ['root/elsewhere', 'outside']) mkdirSync(at(folder), { recursive: true });
          for (const { place, target } of links) {
            try {
              const parent = path.dirname(at('root', ...place));
              mkdirSync(parent, { recursive: true });
              // Links outside, which lead back, would look like files that came out.
              if (isInside(at('root'), realpathSync(parent))) symlinkSync(at(target), at('root', ...place));
            } catch {
              // Something is there already, or a link leads to nothing: one link fewer.
            }
          }
          const before = everythingOutside();
          try {
            replaceWhole(at('root'), [...wanted, 'f.png'].join('/'), Buffer.from('x'));
          } catch {
            // Refused; that nothing came outside is what counts.
          }
          expect(everythingOutside()).toEqual(before);
        },
      ),
      { numRuns: 300 },
    );
  });
});

describe('a file', () => {
  it('is not written over, nor through a link', async () => {
    const folder = HeldFolder.open(at('root'), 'shot');
    writeFileSync(at('root/shot/there'), 'old');
    symlinkSync(at('outside/new'), at('root/shot/link'));
    for (const name of ['there', 'link']) await expect(writeWhole(folder, name, 'new')).rejects.toMatchObject({ code: 'file-in-the-way' });
    expect(readFileSync(at('root/shot/there'), 'utf8')).toBe('old');
    expect(existsSync(at('outside/new'))).toBe(false);
    folder.close();
  });

  it('is moved to a free name only, and whoever took it meanwhile keeps it', async () => {
    const folder = HeldFolder.open(at('root'), 'shot');
    await writeWhole(folder, 'a', 'one');
    await writeWhole(folder, 'b', 'two');
    await expect(moveInto(folder, 'a', folder, 'b')).rejects.toMatchObject({ code: 'file-in-the-way' });
    await moveInto(folder, 'a', folder, 'c');
    expect(readdirSync(at('root/shot')).sort()).toEqual(['b', 'c']);
    expect(readFileSync(at('root/shot/c'), 'utf8')).toBe('one');
    folder.close();
  });

  it('that is rendered anew leaves links and other names of the old one alone', () => {
    writeFileSync(at('outside/original'), 'precious');
    linkSync(at('outside/original'), at('root/shot/hard.exr'));
    symlinkSync(at('outside/original'), at('root/shot/soft.exr'));
    for (const name of ['hard.exr', 'soft.exr']) {
      const descriptor = openAnew(at('root/shot'), name);
      writeSync(descriptor, 'rendered');
      closeSync(descriptor);
      expect(readFileSync(at('root/shot', name), 'utf8')).toBe('rendered');
      expect(lstatSync(at('root/shot', name)).isSymbolicLink()).toBe(false);
    }
    expect(readFileSync(at('outside/original'), 'utf8')).toBe('precious');
  });
});
