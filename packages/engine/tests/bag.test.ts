import { spawnSync } from 'node:child_process';
import { createHash } from 'node:crypto';
import { existsSync, mkdirSync, mkdtempSync, readdirSync, rmSync, writeFileSync } from 'node:fs';
import os from 'node:os';
import path from 'node:path';
import { afterEach, beforeEach, describe, expect, it } from 'vitest';
import { HeldFolder } from '@mint-tally/disk';
import { writeBag, type BagOptions } from '../src/index.ts';

let top: string;
let options: BagOptions;

beforeEach(() => {
  top = mkdtempSync(path.join(os.tmpdir(), 'mint-bag-'));
  mkdirSync(path.join(top, 'source', 'beauty'), { recursive: true });
  const files = [1, 2, 3].map((n) => {
    const bytes = Buffer.alloc(3_000_000 + n, n);
    writeFileSync(path.join(top, 'source', 'beauty', `b.${n}.exr`), bytes);
    return { path: `beauty/b.${n}.exr`, size: bytes.length, sha256: createHash('sha256').update(bytes).digest('hex') };
  });
  options = {
    source: path.join(top, 'source'),
    files,
    parent: null!,
    name: 'package',
    aside: '7',
    documents: { 'brief.json': {} },
    info: [],
    stopped: () => false,
    onProgress: () => undefined,
    onWhole: async () => undefined,
  };
  mkdirSync(path.join(top, 'out'));
  options = { ...options, parent: HeldFolder.open(top, 'out') };
});
afterEach(() => {
  options.parent.close();
  rmSync(top, { recursive: true, force: true });
});

const left = () => readdirSync(path.join(top, 'out'));

describe('a package', () => {
  it('stands under its name when it is whole', async () => {
    const progress: number[] = [];
    const written = await writeBag({ ...options, onProgress: (now) => progress.push(now.done) });
    expect(written).toMatchObject({ files: 4, bytes: 9_000_006 + 3 });
    expect(left()).toEqual(['package']);
    expect(progress).toEqual([1, 2, 3]);
  });

  it('leaves nothing when it is stopped midway', async () => {
    let asked = 0;
    expect(await writeBag({ ...options, stopped: () => ++asked > 2 })).toBeNull();
    expect(left()).toEqual([]);
  });

  it('leaves nothing when a file changed after the count', async () => {
    writeFileSync(path.join(top, 'source', 'beauty', 'b.2.exr'), 'other');
    await expect(writeBag(options)).rejects.toMatchObject({ code: 'changed-since-count', subject: 'beauty/b.2.exr' });
    expect(left()).toEqual([]);
  });

  it('leaves nothing when a file is gone', async () => {
    rmSync(path.join(top, 'source', 'beauty', 'b.3.exr'));
    await expect(writeBag(options)).rejects.toMatchObject({ code: 'not-found' });
    expect(left()).toEqual([]);
  });

  it('says that the disk is full when it is, and leaves nothing', async () => {
    const small = path.join(top, 'out', 'small');
    mkdirSync(small);
    if (spawnSync('mount', ['-t', 'tmpfs', '-o', 'size=1m', 'tmpfs', small]).status !== 0) return expect(process.getuid!()).not.toBe(0);
    const parent = HeldFolder.open(small, '');
    try {
      // The files are larger than they were said to be, so it shows only while they are copied.
      const files = options.files.map((file) => ({ ...file, size: 1 }));
      await expect(writeBag({ ...options, parent, files })).rejects.toMatchObject({
        code: 'disk-full',
        message: expect.stringMatching(/^The disk of .*b\.\d\.exr is full\.$/),
      });
      expect(readdirSync(small)).toEqual([]);
    } finally {
      parent.close();
      spawnSync('umount', [small]);
    }
  });

  it('never touches what stands under the name already', async () => {
    mkdirSync(path.join(top, 'out', 'package'));
    await expect(writeBag(options)).rejects.toMatchObject({ code: 'package-exists' });
    expect(left()).toEqual(['package']);
  });

  it('throws away what an earlier try of the same job left', async () => {
    mkdirSync(path.join(top, 'out', '.package.unfinished-7', 'data'), { recursive: true });
    expect(await writeBag(options)).not.toBeNull();
    expect(left()).toEqual(['package']);
  });

  it.each(['a%b.exr', 'a\\b.exr', 'a\nb.exr'])('refuses the name %j before it copies anything', async (name) => {
    await expect(writeBag({ ...options, files: [{ path: name, size: 1, sha256: '' }] })).rejects.toMatchObject({ code: 'bag' });
    expect(left()).toEqual([]);
  });

  it('refuses a frame that is named like its own documents', async () => {
    await expect(writeBag({ ...options, files: [{ path: 'brief.json', size: 1, sha256: '' }] })).rejects.toMatchObject({ code: 'bag' });
    expect(existsSync(path.join(top, 'out', 'package'))).toBe(false);
  });
});
