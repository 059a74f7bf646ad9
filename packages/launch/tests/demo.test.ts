import { mkdtempSync, rmSync } from 'node:fs';
import os from 'node:os';
import path from 'node:path';
import { families, findingCodes, parseBrief, type Tally } from '@mint-tally/core';
import { assayFolder, countFolder, InspectionPool, servicesFolder } from '@mint-tally/engine';
import { briefOf, DEMO_QUALITY, demoShots, planShot, renderDemo } from '@mint-tally/standin-farm';
import { Piscina } from 'piscina';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';

const quality = { width: 32, height: 18, samples: 1 };
let top: string;
let pool: InspectionPool;
const tallies = new Map<string, Tally>();

beforeAll(async () => {
  top = mkdtempSync(path.join(os.tmpdir(), 'mint-demo-'));
  pool = new InspectionPool(2);
  const folder = path.join(top, 'demo');
  await renderDemo({ folder, workerFile: path.join(servicesFolder(), 'render-worker.js'), threads: 2, quality });
  for (const shot of demoShots) {
    const brief = parseBrief(briefOf(shot, quality));
    const { tally } = await countFolder({ folder: path.join(folder, shot.name), brief, level: 'full', pool, proxyFolder: null, now: Date.now() });
    tallies.set(shot.name, tally);
  }
});
afterAll(async () => {
  await pool.close();
  rmSync(top, { recursive: true, force: true });
});

const told = (shot: string) =>
  tallies
    .get(shot)!
    .findings.map(({ code, pass, frames }) => `${code} ${pass ?? '-'} ${frames}`.trim())
    .sort();

describe('the demo', () => {
  it('has one shot without a fault', () => {
    expect(tallies.get('orr_010')).toMatchObject({ ready: true, findings: [] });
  });

  it('has names gone wrong', () => {
    expect(told('orr_020')).toEqual([
      'blank-frame normal 1005',
      'duplicate-number beauty 1022',
      'mixed-version beauty 1007',
      'stray-file -',
      'trailing-data beauty 1020',
      'unsafe-name -',
      'wrong-alpha beauty 1018',
      'wrong-name normal 1015',
      'wrong-padding depth 1011',
    ]);
  });

  it('has a night on which a machine stopped', () => {
    expect(told('orr_030')).toEqual([
      'corrupt beauty 1026',
      'empty-file depth 1008',
      'frozen-frame normal 1010',
      'missing-frame beauty 1013-1016',
      'missing-frame depth 1013-1016',
      'missing-frame normal 1013-1016',
      'missing-region beauty 1006',
      'stray-file -',
      'truncated beauty 1022',
      'unexpected-frame beauty 1037',
      'unwritten-file normal 1020',
      'wrong-compression depth 1017-1018',
      'wrong-format beauty 1034',
      'wrong-resolution beauty 1029-1031',
    ]);
  });

  it('has a shot that is still being rendered', () => {
    expect(told('orr_040')).toEqual([
      'missing-frame beauty 1019-1032',
      'missing-frame depth 1018-1032',
      'missing-pass normal 1001-1032',
      'nan-pixels beauty 1004',
      'still-writing beauty 1018',
      'unplanned-sequence - 1-3',
      'wrong-channels depth 1012',
      'wrong-depth beauty 1008',
    ]);
  });

  it('has a shot whose faults its pixels tell', () => {
    // An albedo that shows the frame before is the same file twice where that begins; all else is found when it is measured.
    expect(told('orr_050')).toEqual(['frozen-frame albedo 1012']);
  });

  it('shows every family of findings that a count tells', () => {
    const found = [...tallies.values()].flatMap((tally) => tally.findings.map((finding) => findingCodes[finding.code].family));
    expect([...new Set(found)].sort()).toEqual(families.filter((family) => family !== 'noise' && family !== 'passes').sort());
  });
});

it("the demo's shot of all passes has a fault of each kind that an assay finds", async () => {
  const folder = mkdtempSync(path.join(os.tmpdir(), 'mint-demo-assay-'));
  const shot = demoShots.find(({ name }) => name === 'orr_050')!;
  // As people see it: smaller pictures are measured otherwise.
  const measured = DEMO_QUALITY;
  const nodes = new Piscina({ filename: path.join(servicesFolder(), 'render-worker.js'), maxThreads: 2 });
  await Promise.all(planShot(shot, folder, measured).map((task) => nodes.run(task)));
  await nodes.destroy();
  const assay = await assayFolder({ folder: path.join(folder, shot.name), brief: parseBrief(briefOf(shot, measured)), now: Date.now(), threads: 2 });
  rmSync(folder, { recursive: true, force: true });
  // What was planted, in the frames that have it, and nothing else: a lamp that sinks, sparks, few samples, a light too weak.
  expect(assay!.findings.map(({ code, pass, frames }) => `${code} ${pass ?? '-'} ${frames}`).sort()).toEqual([
    'fireflies beauty 1015',
    'flicker beauty 1006',
    'flicker beauty 1015',
    'flicker diffuse 1006',
    'flicker emission 1006',
    'flicker transmission 1006',
    'noise-shift beauty 1012-1013',
    'noise-shift beauty 1015',
    'noise-shift diffuse 1012-1013',
    'noise-shift emission 1001-1002',
    'noise-shift emission 1012-1013',
    'noise-shift specular 1001-1002',
    'noise-shift specular 1012-1013',
    'noise-shift transmission 1012-1013',
    'noisy beauty 1001-1002,1012-1013,1015',
    'noisy specular 1001-1002,1012-1013',
    'normal-implausible normal 1008-1009',
    'pass-offset albedo 1013-1015',
    'sum-mismatch beauty 1009-1010',
    'sum-mismatch beauty 1015',
    'unsettled-start beauty 1001-1002',
    'unsettled-start diffuse 1001-1002',
  ]);
});
