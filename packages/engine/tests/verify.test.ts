import { execFileSync, spawnSync } from 'node:child_process';
import { createHash } from 'node:crypto';
import {
  appendFileSync,
  cpSync,
  existsSync,
  mkdirSync,
  mkdtempSync,
  readFileSync,
  realpathSync,
  renameSync,
  rmSync,
  symlinkSync,
  writeFileSync,
} from 'node:fs';
import os from 'node:os';
import path from 'node:path';
import { parseBrief, workOutOrder } from '@mint-tally/core';
import { HeldFolder } from '@mint-tally/disk';
import { receiptSchema } from '@mint-tally/core';
import { afterAll, beforeAll, beforeEach, describe, expect, it } from 'vitest';
import { pngBytes } from '../../../tests/support/frames.ts';
import { runVerify } from '../src/packaging/verify-command.ts';
import { writePackage } from '../src/packaging/write-package.ts';

const brief = parseBrief({ shot: 'orr_010', range: '1001-1003', passes: [{ name: 'beauty', pattern: 'beauty/b.####.png' }] });
const frames = [...workOutOrder(brief).frames].map((frame) => `beauty/b.${frame}.png`);
let top = '';
let original = '';
let bag = '';

beforeAll(async () => {
  top = realpathSync(mkdtempSync(path.join(os.tmpdir(), 'mint-verify-')));
  const source = path.join(top, 'shot');
  mkdirSync(path.join(source, 'beauty'), { recursive: true });
  frames.forEach((name, i) => writeFileSync(path.join(source, name), pngBytes(i)));
  const counted = frames.map((name) => {
    const bytes = readFileSync(path.join(source, name));
    return { path: name, size: bytes.length, sha256: createHash('sha256').update(bytes).digest('hex') };
  });
  const parent = HeldFolder.open(top, '');
  await writePackage({
    ...{ source, parent, name: 'original', aside: '1', form: 'folder', taking: 'copy', sums: [] },
    parts: [{ files: counted, documents: { 'brief.json': brief, 'tally.json': { waivers: [] } }, info: [['External-Identifier', 'orr_010']] }],
    ...{ isLeft: () => false, stopped: () => false, isKept: () => false, onProgress: () => undefined, onWhole: async () => undefined },
  });
  parent.close();
  original = path.join(top, 'original');
});
afterAll(() => rmSync(top, { recursive: true, force: true }));
beforeEach(() => {
  bag = mkdtempSync(path.join(top, 'bag-'));
  cpSync(original, bag, { recursive: true });
});

const at = (name: string) => path.join(bag, name);
/** What is found, as the command prints it. */
async function verify(folder = bag) {
  const { status, output, error } = await runVerify([folder, '--json'], () => undefined);
  const printed = (output === '' ? { problems: [] } : JSON.parse(output)) as {
    valid: boolean;
    files: number;
    bytes: number;
    problems: { code: string; file: string; message: string }[];
    tally: { ready: boolean; passes: { sound: number }[]; findings: unknown[] } | null;
  };
  return { status, error, ...printed, told: printed.problems.map(({ code, file }) => `${code} ${file}`) };
}
/** Writes manifests anew over what they say, so that only one thing is wrong. */
function reseal() {
  const names = ['bagit.txt', 'bag-info.txt', 'manifest-sha256.txt', 'fetch.txt'].filter((name) => existsSync(at(name)));
  writeFileSync(
    at('tagmanifest-sha256.txt'),
    names
      .map(
        (name) =>
          `${createHash('sha256')
            .update(readFileSync(at(name)))
            .digest('hex')}  ${name}\n`,
      )
      .join(''),
  );
}

describe('a package that arrives', () => {
  it('whole is valid, and its frames are counted again', async () => {
    expect(await verify()).toMatchObject({ status: 0, valid: true, files: 5, told: [], tally: { ready: true, passes: [{ sound: 3 }], findings: [] } });
    // What the commands of every system say of it.
    expect(execFileSync('sha256sum', ['-c', '--quiet', 'manifest-sha256.txt'], { cwd: bag, encoding: 'utf8' })).toBe('');
  });

  const isThere = spawnSync('python3', ['-c', 'import bagit']).status === 0;
  it.skipIf(!isThere)('is valid to a reader of BagIt that is not ours', () => {
    expect(spawnSync('python3', ['-m', 'bagit', '--validate', bag]).status).toBe(0);
  });

  it('with a file that is gone, changed, added or renamed says just which', async () => {
    rmSync(at('data/beauty/b.1001.png'));
    appendFileSync(at('data/beauty/b.1002.png'), 'x');
    writeFileSync(at('data/beauty/more.png'), pngBytes(9));
    renameSync(at('data/beauty/b.1003.png'), at('data/beauty/B.1003.png'));
    const found = await verify();
    expect(found).toMatchObject({ status: 1, valid: false });
    expect(found.told.sort()).toEqual([
      'changed-file data/beauty/b.1002.png',
      'extra-file data/beauty/B.1003.png',
      'extra-file data/beauty/more.png',
      'missing-file data/beauty/b.1001.png',
      'missing-file data/beauty/b.1003.png',
    ]);
  });

  it('with other words in its tag files says so', async () => {
    appendFileSync(at('bag-info.txt'), 'Contact-Name: somebody else\n');
    expect((await verify()).told).toEqual(['changed-file bag-info.txt']);
  });

  it.each([
    ['../outside', 'climbs out'],
    ['data/../../outside', 'climbs out'],
    ['/etc/passwd', 'root of the disk'],
    ['C:/windows', 'a drive'],
    ['data/%2e%2e/%2e%2e/outside', 'another writing'],
    ['data\\..\\outside', 'a backslash'],
    ['~/outside', 'a home folder'],
    ['outside', 'not below data/'],
    ['data//b', 'empty'],
  ])('with a manifest that names %s is not followed there', async (name, why) => {
    appendFileSync(at('manifest-sha256.txt'), `${'0'.repeat(64)}  ${name}\n`);
    reseal();
    const { told, problems } = await verify();
    expect(told).toEqual([`unsafe-path ${name}`]);
    expect(problems[0]!.message).toContain(why);
  });

  it('with links in the place of files follows none that leads out, and takes none for a file', async () => {
    const bytes = readFileSync(at('data/beauty/b.1001.png'));
    writeFileSync(path.join(top, 'outside.png'), bytes);
    rmSync(at('data/beauty/b.1001.png'));
    symlinkSync(path.join(top, 'outside.png'), at('data/beauty/b.1001.png'));
    expect((await verify()).told).toEqual(['unsafe-path data/beauty/b.1001.png']);
  });

  it('with holes to be fetched fetches nothing, and says what is missing', async () => {
    rmSync(at('data/beauty/b.1002.png'));
    writeFileSync(at('fetch.txt'), 'http://127.0.0.1:9/b 100 data/beauty/b.1002.png\nhttp://127.0.0.1:9/b - ../b\nrubbish\n');
    reseal();
    expect((await verify()).told).toEqual(['missing-file data/beauty/b.1002.png', 'unsafe-path ../b', 'bad-manifest fetch.txt']);
  });

  it('with a manifest that cannot be read says which line', async () => {
    appendFileSync(at('manifest-sha256.txt'), 'rubbish\nabc  data/x\n');
    reseal();
    const { problems } = await verify();
    expect(problems.map(({ code, message }) => `${code} ${message}`)).toEqual([
      'bad-manifest Line 6 cannot be followed: it is no checksum with a path.',
      'bad-manifest Line 7 cannot be followed: its checksum has 3 digits where 64 are needed.',
    ]);
  });

  it('from elsewhere, without our files, is verified and not counted', async () => {
    const foreign = mkdtempSync(path.join(top, 'foreign-'));
    mkdirSync(path.join(foreign, 'data'));
    writeFileSync(path.join(foreign, 'data', 'a 50%.txt'), 'hello');
    writeFileSync(path.join(foreign, 'bagit.txt'), 'BagIt-Version: 0.97\nTag-File-Character-Encoding: UTF-8\n');
    writeFileSync(path.join(foreign, 'manifest-md5.txt'), `${createHash('md5').update('hello').digest('hex')} *data/a 50%25.txt\r\n`);
    expect(await verify(foreign)).toMatchObject({ status: 0, valid: true, files: 1, bytes: 5, tally: null });
    rmSync(path.join(foreign, 'manifest-md5.txt'));
    expect((await verify(foreign)).told[0]).toMatch(/^bad-manifest/);
  });

  it('as one of several volumes says which are still to come', async () => {
    const volume = (number: number, name: string) => {
      const folder = path.join(top, 'volumes', name);
      cpSync(original, folder, { recursive: true });
      appendFileSync(path.join(folder, 'bag-info.txt'), `Bag-Group-Identifier: orr_010 v3\nBag-Count: ${number} of 3\n`);
      rmSync(path.join(folder, 'tagmanifest-sha256.txt'));
      return folder;
    };
    const first = volume(1, 'one');
    volume(3, 'three');
    expect((await verify(first)).told).toEqual(['missing-volume 2 of 3']);
    volume(2, 'two');
    expect((await verify(first)).told).toEqual([]);
  });

  it('that is none, or not there, is told in a line', async () => {
    const empty = mkdtempSync(path.join(top, 'empty-'));
    expect((await verify(empty)).told).toEqual(['bad-manifest bagit.txt', `bad-manifest ${empty}`, 'missing-file data']);
    expect(await verify(path.join(top, 'nowhere'))).toMatchObject({ status: 2, error: expect.stringMatching(/^mint verify: .*nowhere/) as string });
    expect((await runVerify([], () => undefined)).error).toContain('No folder was named.');
  });
});

describe('a receipt', () => {
  it('says of the package that arrived what was found, and is not written over anything', async () => {
    const file = path.join(top, 'receipt.json');
    const give = () => runVerify([bag, '--receipt', file, '--person', 'Ivo'], () => undefined);
    expect((await give()).status).toBe(0);
    const read = () => receiptSchema.parse(JSON.parse(readFileSync(file, 'utf8')));
    const manifestSha256 = createHash('sha256')
      .update(readFileSync(at('manifest-sha256.txt')))
      .digest('hex');
    expect(read()).toMatchObject({ shot: 'orr_010', manifestSha256, valid: true, ready: true, problems: [], person: 'Ivo' });
    expect((await give()).error).toContain('is there already');
    rmSync(file);
    rmSync(at(`data/${frames[0]!}`));
    expect((await give()).status).toBe(1);
    expect(read()).toMatchObject({ valid: false, problems: [{ code: 'missing-file', file: `data/${frames[0]!}` }] });
  });

  it('is not given of what names itself by nothing, nor laid into the package', async () => {
    expect((await runVerify([bag, '--receipt', at('receipt.json')], () => undefined)).error).toContain('would be an extra file');
    rmSync(at('manifest-sha256.txt'));
    expect((await runVerify([bag, '--receipt', path.join(top, 'none.json')], () => undefined)).error).toContain('there is no receipt of it');
  });
});
