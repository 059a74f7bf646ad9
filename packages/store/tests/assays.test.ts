import { findingSchema, parseBrief, type KeptAssay } from '@mint-tally/core';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { makeDatabase } from '../../../tests/support/database.ts';
import {
  createShot,
  ensureProject,
  newestAssay,
  newestBrief,
  readAssay,
  readAssayTiles,
  readStateKey,
  removeShot,
  saveAssay,
  saveBrief,
  type Database,
} from '../src/index.ts';

let database: Database;
let shotId: number;
let briefId: number;

beforeAll(async () => {
  database = await makeDatabase();
  const projectId = (await ensureProject(database, 'Saltglass', 'ada')).id;
  shotId = await createShot(database, { projectId, name: 'orr_010', note: '', root: 'demo', folder: 'orr_010' }, 'ada');
  const brief = parseBrief({ shot: 's', range: '1-2', passes: [{ name: 'beauty', role: 'beauty', pattern: 'b.####.exr' }] });
  await database.transaction((inside) => saveBrief(inside, shotId, brief, 'ada'));
  briefId = (await newestBrief(database, shotId))!.id;
});
afterAll(() => database.close());

const CONTENT = 'ab'.repeat(32);
const figures = (noise: number | null): KeptAssay => ({
  frames: [
    {
      ...{ pass: 'beauty', frame: -3, noise, relativeNoise: 0.1, temporalNoise: null },
      ...{ fireflies: 2, meanLuminance: 0.2, by: 'features', host: 'reef', samples: 64, seconds: 12.5, bytes: 70_000 },
    },
  ],
  heldSeeds: false,
  wideFilter: true,
  vectors: { says: 'in pixels', residual: null, isSaid: true },
});
const finding = findingSchema.parse({
  ...{ code: 'noisy', severity: 'warning', family: 'noise', pass: 'beauty', frames: '1-2', files: ['b.0001.exr'] },
  ...{ message: 'Too much.', detail: '', evidence: [{ file: 'b.0001.exr', message: 'Noise 1.' }] },
});
/** Tiles of a picture of 40 x 20 pixels. */
const tiles = (frame: number) => ({
  ...{ pass: 'beauty', frame, width: 40, height: 20 },
  sigmas: Float64Array.of(0.01, 0.02, NaN, 0, 3, 1e-5),
  means: Float64Array.of(0.2, 0.3, NaN, 0, 1000, -0.1),
  fireflies: frame < 0 ? null : Int32Array.of(3, 799),
});
const save = (assay: KeptAssay, findings = [finding], content = CONTENT) =>
  database.transaction((inside) => saveAssay(inside, shotId, { briefId, content }, assay, [tiles(1001), tiles(-3)], findings, 'ada'));

describe('the assay of a shot', () => {
  it('is none before the first', async () => {
    expect([await newestAssay(database, shotId), await readAssay(database, shotId)]).toEqual([null, null]);
  });

  it('comes back as it was written, and changes what the pages show', async () => {
    const before = await readStateKey(database, shotId);
    await save(figures(0.0123));
    expect(await readStateKey(database, shotId)).not.toBe(before);
    expect(await readAssay(database, shotId)).toEqual(figures(0.0123));
    const newest = (await newestAssay(database, shotId))!;
    expect(newest).toMatchObject({ briefId, content: CONTENT, findings: [{ code: 'noisy', evidence: finding.evidence }] });
    expect(String(newest.findings[0]!.frames)).toBe('1-2');
  });

  it('keeps the noise of every tile, right to a part in a thousand', async () => {
    expect((await readAssayTiles(database, shotId, null)).map(({ frame }) => frame)).toEqual([-3, 1001]);
    const [kept] = await readAssayTiles(database, shotId, { pass: 'beauty', frame: 1001 });
    expect(kept).toMatchObject({ pass: 'beauty', frame: 1001, width: 40, height: 20, fireflies: Int32Array.of(3, 799) });
    expect((await readAssayTiles(database, shotId, { pass: 'beauty', frame: -3 }))[0]!.fireflies).toBeNull();
    kept!.sigmas.forEach((sigma, i) => {
      const wanted = tiles(1001).sigmas[i]!;
      if (Number.isNaN(wanted) || wanted === 0) expect(sigma).toBe(wanted);
      else expect(Math.abs(sigma / wanted - 1)).toBeLessThan(0.001);
    });
    // Light below nothing is none.
    expect(kept!.means[5]).toBe(0);
    expect(await readAssayTiles(database, shotId, { pass: 'beauty', frame: 9 })).toEqual([]);
  });

  it('takes the place of the one before, findings and all', async () => {
    await save(figures(null), [], 'cd'.repeat(32));
    expect(await readAssay(database, shotId)).toEqual(figures(null));
    expect(await newestAssay(database, shotId)).toMatchObject({ content: 'cd'.repeat(32), findings: [] });
  });

  it('that was changed from outside is told as that', async () => {
    await database.change('UPDATE assays SET body = ? WHERE shot_id = ?', ['{"frames": 3}', shotId]);
    await expect(readAssay(database, shotId)).rejects.toThrow(`The assay of shot ${shotId} cannot be read from the database`);
  });

  it('goes with its shot', async () => {
    await database.transaction((inside) => removeShot(inside, shotId));
    expect(await newestAssay(database, shotId)).toBeNull();
    expect(await readAssayTiles(database, shotId, null)).toEqual([]);
  });
});
