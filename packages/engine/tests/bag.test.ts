import { spawnSync } from 'node:child_process';
import { createHash } from 'node:crypto';
import { existsSync, mkdirSync, mkdtempSync, readdirSync, readFileSync, rmSync, statSync, writeFileSync } from 'node:fs';
import os from 'node:os';
import path from 'node:path';
import { afterEach, beforeEach, describe, expect, it } from 'vitest';
import { HeldFolder } from '@mint-tally/disk';
import { writePackage, type PackageOptions } from '../src/index.ts';
import { verifyWritten } from '../src/packaging/verify-bag.ts';

let top: string;
let options: PackageOptions;

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
    parts: [{ files, documents: { 'brief.json': {} }, info: [] }],
    parent: null!,
    name: 'package',
    form: 'folder',
    taking: 'copy',
    sums: [],
    aside: '7',
    isLeft: () => false,
    stopped: () => false,
    isKept: () => false,
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
const sumsAgree = (bag: string) => spawnSync('sha256sum', ['-c', '--quiet', 'manifest-sha256.txt'], { cwd: bag }).status === 0;

describe('a package', () => {
  it('stands under its name when it is whole', async () => {
    const progress: number[] = [];
    const written = await writePackage({ ...options, onProgress: (now) => progress.push(now.done) });
    expect(written).toMatchObject({ files: 4, bytes: 9_000_006 + 3 });
    expect(left()).toEqual(['package']);
    expect(progress).toEqual([1, 2, 3]);
  });

  it('leaves nothing when it is stopped midway', async () => {
    let asked = 0;
    expect(await writePackage({ ...options, stopped: () => ++asked > 2 })).toBeNull();
    expect(left()).toEqual([]);
  });

  it('leaves nothing when a file changed after the count', async () => {
    writeFileSync(path.join(top, 'source', 'beauty', 'b.2.exr'), 'other');
    await expect(writePackage(options)).rejects.toMatchObject({ code: 'changed-since-count', subject: 'beauty/b.2.exr' });
    expect(left()).toEqual([]);
  });

  it('leaves nothing when a file is gone', async () => {
    rmSync(path.join(top, 'source', 'beauty', 'b.3.exr'));
    await expect(writePackage(options)).rejects.toMatchObject({ code: 'not-found' });
    expect(left()).toEqual([]);
  });

  it('says that the disk is full when it is, and leaves nothing', async () => {
    const small = path.join(top, 'out', 'small');
    mkdirSync(small);
    if (spawnSync('mount', ['-t', 'tmpfs', '-o', 'size=11m', 'tmpfs', small]).status !== 0) return expect(process.getuid!()).not.toBe(0);
    const parent = HeldFolder.open(small, '');
    try {
      // Somebody else takes the room while the files are copied.
      const onProgress = () => writeFileSync(path.join(small, 'other'), Buffer.alloc(5_000_000));
      await expect(writePackage({ ...options, parent, onProgress })).rejects.toMatchObject({
        code: expect.stringMatching(/disk-full|package-failed/),
        message: expect.stringMatching(/is full\.$/),
      });
      rmSync(path.join(small, 'other'));
      expect(readdirSync(small)).toEqual([]);
    } finally {
      parent.close();
      spawnSync('umount', [small]);
    }
  });

  it('never touches what stands under the name already', async () => {
    mkdirSync(path.join(top, 'out', 'package'));
    await expect(writePackage(options)).rejects.toMatchObject({ code: 'package-exists' });
    expect(left()).toEqual(['package']);
  });

  it('goes on with what an earlier try left, and takes nothing of it on trust', async () => {
    let there = 0;
    const begun = await writePackage({ ...options, aside: '7-a', onProgress: ({ done }) => (there = done), stopped: () => there > 0, isKept: () => true });
    expect([begun, left()]).toEqual([null, ['.package.unfinished-7-a']]);
    const data = path.join(top, 'out', '.package.unfinished-7-a', 'data', 'beauty');
    const [first] = readdirSync(data);
    // One of the files there is only half written, as after a fall.
    writeFileSync(path.join(data, first!), Buffer.alloc(3_000_001, 9));
    expect(await writePackage({ ...options, aside: '7-b', isLeft: (aside) => aside === '7-a' })).toMatchObject({ files: 4 });
    expect(left()).toEqual(['package']);
    expect(sumsAgree(path.join(top, 'out', 'package'))).toBe(true);
  });

  it('leaves alone what somebody else is still writing', async () => {
    mkdirSync(path.join(top, 'out', '.package.unfinished-8', 'data'), { recursive: true });
    await writePackage(options);
    expect(left().sort()).toEqual(['.package.unfinished-8', 'package']);
  });

  it('has volumes that are each whole, under one name', async () => {
    const [{ files, documents, info }] = options.parts as [PackageOptions['parts'][number]];
    const parts = files.map((file) => ({ files: [file], documents, info }));
    const written = (await writePackage({ ...options, parts }))!;
    expect(readdirSync(path.join(top, 'out', 'package')).sort()).toEqual(['volume_1', 'volume_2', 'volume_3']);
    for (const volume of [1, 2, 3]) expect(sumsAgree(path.join(top, 'out', 'package', `volume_${volume}`))).toBe(true);
    expect(written.manifests).toHaveLength(3);
    const down = { ...written, form: 'folder', volumes: 3 } as const;
    expect(
      await verifyWritten(
        path.join(top, 'out'),
        'package',
        down,
        () => false,
        () => undefined,
      ),
    ).toBe(null);
    writeFileSync(path.join(top, 'out', 'package', 'volume_2', 'data', 'beauty', 'b.2.exr'), 'other');
    expect(
      await verifyWritten(
        path.join(top, 'out'),
        'package',
        down,
        () => false,
        () => undefined,
      ),
    ).toBe('data/beauty/b.2.exr');
  });

  it('is one tar file where that is wanted, with the package in it', async () => {
    const written = (await writePackage({ ...options, name: 'package.tar', form: 'tar' }))!;
    expect(left()).toEqual(['package.tar']);
    spawnSync('tar', ['-xf', 'package.tar'], { cwd: path.join(top, 'out') });
    expect(sumsAgree(path.join(top, 'out', 'package'))).toBe(true);
    const sumOf = (file: string) =>
      createHash('sha256')
        .update(readFileSync(path.join(top, 'out', file)))
        .digest('hex');
    expect(sumOf('package.tar')).toBe(written.manifestSha256);
    // What the other side names in its receipt.
    expect(written.manifests).toEqual([sumOf('package/manifest-sha256.txt')]);
  });

  it('leaves nothing of a tar that was stopped, or whose file changed', async () => {
    let asked = 0;
    expect(await writePackage({ ...options, form: 'tar', stopped: () => ++asked > 2 })).toBe(null);
    writeFileSync(path.join(top, 'source', 'beauty', 'b.2.exr'), 'other');
    await expect(writePackage({ ...options, form: 'tar' })).rejects.toMatchObject({ code: 'changed-since-count' });
    expect(left()).toEqual([]);
  });

  it.each(['link', 'clone'] as const)('takes the frames as a %s where that is wanted', async (taking) => {
    await writePackage({ ...options, taking });
    const [own, other] = [path.join(top, 'source', 'beauty', 'b.1.exr'), path.join(top, 'out', 'package', 'data', 'beauty', 'b.1.exr')];
    expect(statSync(own).ino === statSync(other).ino).toBe(taking === 'link');
    expect(sumsAgree(path.join(top, 'out', 'package'))).toBe(true);
  });

  it('has other checksums beside SHA-256 where they are wanted', async () => {
    await writePackage({ ...options, sums: ['sha512', 'xxh64'] });
    const bag = path.join(top, 'out', 'package');
    expect(spawnSync('sha512sum', ['-c', '--quiet', 'manifest-sha512.txt'], { cwd: bag }).status).toBe(0);
    const quick = readFileSync(path.join(bag, 'xxh64.txt'), 'utf8');
    expect(quick).toMatch(/^[0-9a-f]{16} {2}data\/beauty\/b\.1\.exr\n/);
    const { status, error, stdout } = spawnSync('xxhsum', ['-H64', path.join(bag, 'data/beauty/b.1.exr')], { encoding: 'utf8' });
    // Held against the program where there is one.
    if (!error && status === 0) expect(stdout.slice(0, 16)).toBe(quick.slice(0, 16));
  });

  it.each(['a%b.exr', 'a\\b.exr', 'a\nb.exr'])('refuses the name %j before it copies anything', async (name) => {
    await expect(writePackage({ ...options, parts: [{ files: [{ path: name, size: 1, sha256: '' }], documents: {}, info: [] }] })).rejects.toMatchObject({
      code: 'bag',
    });
    expect(left()).toEqual([]);
  });

  it('refuses a frame that is named like its own documents', async () => {
    await expect(writePackage({ ...options, parts: [{ ...options.parts[0]!, files: [{ path: 'brief.json', size: 1, sha256: '' }] }] })).rejects.toMatchObject({
      code: 'bag',
    });
    expect(existsSync(path.join(top, 'out', 'package'))).toBe(false);
  });
});
