import { spawnSync } from 'node:child_process';
import { appendFileSync, mkdirSync, mkdtempSync, readFileSync, closeSync, rmSync, symlinkSync, utimesSync, writeFileSync } from 'node:fs';
import os from 'node:os';
import path from 'node:path';
import fc from 'fast-check';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { pngBytes } from '../../../tests/support/frames.ts';
import { FileAccessError, joinInside } from '@mint-tally/disk';
import { findRoot, inspectFile, listFolder, loadConfig, openForWriting, openInside, resolveInside, type Root } from '../src/index.ts';

let top: string;
let root: Root;
const at = (...parts: string[]) => path.join(top, ...parts);

beforeAll(() => {
  top = mkdtempSync(path.join(os.tmpdir(), 'mint-files-'));
  for (const folder of ['root/shot/beauty', 'outside/deep', 'rootless']) mkdirSync(at(folder), { recursive: true });
  writeFileSync(at('root/shot/beauty/b.1.png'), pngBytes(1));
  writeFileSync(at('outside/secret.png'), pngBytes(2));
  symlinkSync(at('outside'), at('root/out'));
  symlinkSync(at('outside/secret.png'), at('root/shot/beauty/b.2.png'));
  symlinkSync(at('root/shot/beauty/b.1.png'), at('root/shot/beauty/b.3.png'));
  symlinkSync(at('root/shot'), at('root/shot/round'));
  symlinkSync(at('nowhere'), at('root/shot/dangling.png'));
  symlinkSync(at('root/shot/loop'), at('root/shot/loop'));
  spawnSync('mkfifo', [at('root/shot/pipe.png')]);
  root = { name: 'root', path: at('root'), writable: true };
});
afterAll(() => rmSync(top, { recursive: true, force: true }));

describe('a path inside a root', () => {
  it('comes out as a real path', () => {
    expect(resolveInside(root, '')).toBe(at('root'));
    expect(resolveInside(root, 'shot//./beauty/')).toBe(at('root/shot/beauty'));
  });

  it.each(['..', '../outside', 'shot/../../outside', '/etc/passwd', 'out', 'out/deep', 'a\0b'])('is refused when it leads out: %j', (relative) => {
    expect(() => resolveInside(root, relative)).toThrow(FileAccessError);
  });

  it.each([
    ['nothing', 'not-found'],
    ['shot/dangling.png', 'not-found'],
    ['shot/loop', 'not-readable'],
    ['shot/beauty/b.1.png/x', 'not-found'],
  ])('says why %s cannot be had', (relative, code) => {
    expect(() => resolveInside(root, relative)).toThrow(expect.objectContaining({ code }));
  });

  it('never leaves its folder, whatever is joined to it', () => {
    const piece = fc.constantFrom('..', '.', '', 'a', 'b c', '...', '..a', '%2e%2e', '\u2024\u2024');
    fc.assert(
      fc.property(fc.array(piece, { maxLength: 8 }), (pieces) => {
        let joined: string;
        try {
          joined = joinInside('/top/folder', pieces.join('/'));
        } catch (thrown) {
          expect(thrown).toBeInstanceOf(FileAccessError);
          expect(pieces.includes('..') || pieces.join('/').startsWith('/')).toBe(true);
          return;
        }
        expect(joined === '/top/folder' || joined.startsWith('/top/folder/')).toBe(true);
        expect(path.normalize(joined)).toBe(joined);
      }),
    );
  });

  it('is a root’s own and no other', () => {
    expect(findRoot([root], 'root')).toBe(root);
    expect(() => findRoot([root], 'Root')).toThrow(expect.objectContaining({ code: 'unknown-root' }));
    // A neighbour whose name begins alike is not inside.
    symlinkSync(at('rootless'), at('root/neighbour'));
    expect(() => resolveInside(root, 'neighbour')).toThrow(expect.objectContaining({ code: 'outside-root' }));
  });
});

describe('writing', () => {
  it('goes to new paths inside a writable root', () => {
    const { parent, name } = openForWriting(root, 'new/folder/package');
    expect([parent.where(), name]).toEqual([at('root/new/folder'), 'package']);
    parent.close();
  });

  it('is refused elsewhere', () => {
    expect(() => openForWriting({ ...root, writable: false }, 'x')).toThrow(expect.objectContaining({ code: 'not-writable' }));
    expect(() => openForWriting(root, 'out/x')).toThrow(expect.objectContaining({ code: 'outside-root' }));
    expect(() => openForWriting(root, '../x')).toThrow(expect.objectContaining({ code: 'outside-root' }));
  });
});

describe('opening a file', () => {
  it('follows links that stay inside, and refuses those that leave, pipes and folders', () => {
    const folder = at('root');
    for (const name of ['shot/beauty/b.1.png', 'shot/beauty/b.3.png']) closeSync(openInside(folder, name).descriptor);
    for (const name of ['shot/beauty/b.2.png', 'out/secret.png', 'shot/pipe.png', 'shot', 'shot/dangling.png', '../outside/secret.png']) {
      expect(() => openInside(folder, name)).toThrow(FileAccessError);
    }
  });
});

describe('a listing', () => {
  it('holds files with size and time, walks links that stay inside once, and marks what is no file', async () => {
    utimesSync(at('root/shot/beauty/b.1.png'), 1000, 2000);
    const { files, unreadable } = await listFolder(at('root/shot'), { stats: true });
    const byPath = Object.fromEntries(files.map((file) => [file.path, file]));
    expect(Object.keys(byPath).sort()).toEqual(['beauty/b.1.png', 'beauty/b.2.png', 'beauty/b.3.png', 'dangling.png', 'loop', 'pipe.png', 'round']);
    expect(byPath['beauty/b.1.png']).toMatchObject({ size: pngBytes(1).length, modified: 2_000_000, kind: 'file' });
    expect(byPath['beauty/b.3.png']).toMatchObject({ size: pngBytes(1).length, kind: 'file' });
    for (const name of ['beauty/b.2.png', 'dangling.png', 'pipe.png', 'loop', 'round']) expect(byPath[name].kind).toBe('special');
    expect(unreadable).toEqual([]);
  });

  it('says when the folder is not there', async () => {
    await expect(listFolder(at('root/none'), { stats: false })).rejects.toMatchObject({ code: 'not-found' });
  });
});

describe('a look at a file', () => {
  it('reads every byte once: hash, header and pixels', () => {
    const { facts, sha256, frame } = inspectFile(at('root'), 'shot/beauty/b.1.png', 'full');
    expect(facts).toMatchObject({ problem: null, header: { width: 32, height: 18 } });
    expect(sha256).toBe(spawnSync('sha256sum', [at('root/shot/beauty/b.1.png')], { encoding: 'utf8' }).stdout.slice(0, 64));
    expect(frame!.planes).toHaveLength(3);
    expect(inspectFile(at('root'), 'shot/beauty/b.1.png', 'headers')).toMatchObject({ sha256: null, frame: null, facts: { problem: null } });
  });

  it.each(['shot/beauty/b.2.png', 'shot/pipe.png', 'shot/none.png'])('never throws: %s is unreadable', (name) => {
    expect(inspectFile(at('root'), name, 'full').facts.problem?.code).toBe('unreadable');
  });

  it('tells an empty file, a cut one and one of zeros apart', () => {
    const whole = readFileSync(at('root/shot/beauty/b.1.png'));
    const code = (bytes: Uint8Array) => {
      writeFileSync(at('root/shot/x.png'), bytes);
      return inspectFile(at('root'), 'shot/x.png', 'headers').facts.problem?.code;
    };
    expect([code(Buffer.alloc(0)), code(whole.subarray(0, 80)), code(Buffer.alloc(9000)), code(whole)]).toEqual([
      'empty-file',
      'truncated',
      'unwritten-file',
      undefined,
    ]);
    appendFileSync(at('root/shot/x.png'), 'more');
    expect(inspectFile(at('root'), 'shot/x.png', 'full').facts).toMatchObject({ problem: null, trailingBytes: 4 });
  });
});

describe('the configuration', () => {
  const file = () => at('config.json');
  const load = (config: unknown, environment: Record<string, string> = {}) => {
    writeFileSync(file(), typeof config === 'string' ? config : JSON.stringify(config));
    return loadConfig({ MINT_TALLY_CONFIG: file(), MINT_TALLY_DATA: at('data'), ...environment });
  };

  it('has the demo and a place for packages, both writable, when it says nothing', () => {
    expect(load({})).toMatchObject({ port: 4680, demo: true, databaseUrl: null, dataFolder: at('data') });
    expect(load({}).roots).toEqual([
      { name: 'demo', path: at('data/demo'), writable: true },
      { name: 'packages', path: at('data/packages'), writable: true },
    ]);
  });

  it('puts its own roots first, readable unless it says more, and lets the environment choose the port', () => {
    const config = load(
      {
        demo: false,
        roots: [
          { name: 'renders', path: '/mnt/renders' },
          { name: 'packages', path: '/mnt/out', writable: true },
        ],
      },
      { MINT_TALLY_PORT: '5000' },
    );
    expect(config.roots).toEqual([
      { name: 'renders', path: '/mnt/renders', writable: false },
      { name: 'packages', path: '/mnt/out', writable: true },
    ]);
    expect(config.port).toBe(5000);
  });

  it.each<[unknown, Record<string, string>, RegExp]>([
    ['{ nonsense', {}, /is not JSON/],
    [{ port: 0 }, {}, /port/],
    [{ roots: [{ name: 'Bad Name', path: '/x' }] }, {}, /small letters/],
    [
      {
        roots: [
          { name: 'a', path: '/x' },
          { name: 'a', path: '/y' },
        ],
      },
      {},
      /two roots are called a/,
    ],
    [{}, { MINT_TALLY_PORT: 'many' }, /no port/],
  ])('tells what is wrong with %j %j', (config, environment, message) => {
    expect(() => load(config, environment)).toThrow(message);
  });

  it('misses a file that is named', () => {
    expect(() => loadConfig({ MINT_TALLY_CONFIG: at('none.json') })).toThrow(/no configuration file/);
  });
});
