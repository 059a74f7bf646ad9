import { copyFileSync, mkdtempSync, readdirSync, rmSync, statSync, truncateSync } from 'node:fs';
import os from 'node:os';
import path from 'node:path';
import { readPictureMessage, type PictureWish } from '@mint-tally/core';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { inspectFile, PicturePool, projectFolder } from '../src/index.ts';

const fixtures = path.join(projectFolder(), 'packages/core/fixtures');
const everything: PictureWish = { layer: null, only: null, region: null, reduce: 1 };

describe('a picture to look at', () => {
  let folder: string;
  let pool: PicturePool;
  beforeAll(() => {
    folder = mkdtempSync(path.join(os.tmpdir(), 'mint-picture-'));
    pool = new PicturePool(2, 2 ** 28);
  });
  afterAll(async () => {
    await pool.close();
    rmSync(folder, { recursive: true, force: true });
  });

  const task = (file: string, wish: Partial<PictureWish> = {}) => {
    const { size, mtimeMs } = statSync(path.join(folder, file));
    return { folder, path: file, size, modified: Math.floor(mtimeMs), ...everything, ...wish };
  };

  it('holds the values of the file, every bit, whatever the format', async () => {
    let compared = 0;
    for (const format of ['png', 'exr', 'tiff', 'jpeg', 'tga', 'dpx']) {
      for (const file of readdirSync(path.join(fixtures, format)).filter((name) => /\.(png|exr|tiff?|jpe?g|tga|dpx)$/.test(name))) {
        copyFileSync(path.join(fixtures, format, file), path.join(folder, file));
        const { frame } = inspectFile(folder, file, 'full');
        if (!frame) continue;
        for (const plane of frame.planes) {
          const { info, samples } = readPictureMessage((await pool.read(task(file, { only: [plane.channel] }))).buffer);
          expect([file, info.type, info.width, info.height]).toEqual([file, plane.type, plane.width, plane.height]);
          const own = Array.from({ length: plane.width * plane.height }, (_, i) => plane.data[plane.offset + i * plane.stride]);
          expect([...samples]).toEqual(own);
          compared++;
        }
      }
    }
    expect(compared).toBeGreaterThan(150);
  });

  it('of another file than was counted is refused; of a damaged one there is what can be had, and what is wrong is said', async () => {
    const file = 'changed.exr';
    copyFileSync(path.join(fixtures, 'exr/window_half_zip.exr'), path.join(folder, file));
    const known = task(file);
    truncateSync(path.join(folder, file), known.size - 40);
    await expect(pool.read(known)).rejects.toThrow('changed.exr has changed since it was counted.');
    const { info } = readPictureMessage((await pool.read(task(file))).buffer);
    expect(info.problem).toContain('The file ends after');
    // The last block of sixteen lines was cut.
    const [, , right, bottom] = [0, 0, info.full[0], info.full[1]];
    expect(info.damage).toEqual([[0, Math.floor((bottom - 1) / 16) * 16, right, bottom - Math.floor((bottom - 1) / 16) * 16]]);
    truncateSync(path.join(folder, file), 300);
    await expect(pool.read(task(file))).rejects.toMatchObject({ code: 'no-picture', subject: file });
    await expect(pool.read({ ...known, path: '../elsewhere.exr' })).rejects.toMatchObject({ code: 'outside-root' });
  });

  it('that was given up before its turn is not read', async () => {
    const stop = new AbortController();
    stop.abort();
    const file = 'given-up.exr';
    copyFileSync(path.join(fixtures, 'exr/window_half_zip.exr'), path.join(folder, file));
    await expect(pool.read(task(file), stop.signal)).rejects.toMatchObject({ name: 'AbortError' });
    expect((await pool.read(task(file))).length).toBeGreaterThan(100);
  });
});
