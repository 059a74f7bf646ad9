import { spawnSync } from 'node:child_process';
import { existsSync, mkdirSync, readFileSync, renameSync, rmSync, writeFileSync } from 'node:fs';
import path from 'node:path';
import { Ajv2020 } from 'ajv/dist/2020.js';
import addFormats from 'ajv-formats';
import { pngBytes } from '../support/frames.ts';
import { expect, test } from './application.ts';

test.use({ instance: 'api', writable: true });
test.describe.configure({ mode: 'serial' });

interface Described {
  readonly responses: Record<string, { content: Record<string, { schema?: object }> }>;
}
const FRAMES = 6;
const brief = { shot: 'orr_010', range: `1001-${1000 + FRAMES}`, fps: '24', passes: [{ name: 'beauty', pattern: 'beauty.####.png', watch: false }] };
let paths: Record<string, Record<string, Described>> = {};
let components: object = {};
const frameFile = (shots: string, frame: number) => path.join(shots, 'orr_010', `beauty.${frame}.png`);

test.beforeAll(async ({ application, request }) => {
  mkdirSync(path.join(application.shots, 'orr_010'));
  for (let frame = 1001; frame <= 1000 + FRAMES; frame++) writeFileSync(frameFile(application.shots, frame), pngBytes(frame, 64, 36));
  ({ paths, components } = (await (await request.get(`${application.address}/api/v1/openapi.json`)).json()) as { paths: typeof paths; components: object });
});

/** Whatever is answered is held against what the document says of it. */
const ajv = addFormats.default(new Ajv2020({ strict: false }));
test('each step is walked by what the document describes, and every answer is as it says', async ({ application, request }) => {
  const asked = new Set<string>();
  async function ask(method: 'get' | 'post' | 'put' | 'delete', route: string, numbers: Record<string, number | string> = {}, data?: object, status = 200) {
    const described = paths[route]![method]!;
    asked.add(`${method} ${route}`);
    const address = Object.entries(numbers).reduce((text, [name, value]) => text.replace(`{${name}}`, String(value)), route);
    const response = await request[method](`${application.address}/api/v1${address}`, data === undefined ? {} : { data });
    expect(response.status(), `${method} ${route}: ${await response.text()}`).toBe(status);
    const schema = described.responses[String(status)]!.content['application/json']?.schema;
    if (!schema) return null as never;
    const body = (await response.json()) as Record<string, unknown>;
    const holds = ajv.compile({ ...schema, components } as object);
    expect(holds(body), `${method} ${route}: ${JSON.stringify(holds.errors)}`).toBe(true);
    return body;
  }
  async function work(shot: number, job: object) {
    const { job: number } = await ask('post', '/shots/{shot}/jobs', { shot }, job, 202);
    await expect.poll(async () => (await ask('get', '/jobs/{job}', { job: number as number })).state).toMatch(/done|failed/);
    return ask('get', '/jobs/{job}', { job: number as number });
  }
  const { id } = (await ask('post', '/shots', {}, { root: 'shots', folder: 'orr_010', brief }, 201)) as { id: number };
  const shot = { shot: id };
  await ask('post', '/shots', {}, { root: 'shots', folder: 'orr_010', brief }, 409);
  const refused = await ask('post', '/shots', {}, { root: 'shots', folder: 'orr_010', brief: { ...brief, range: '' } }, 400);
  expect(refused.problems).toContainEqual(expect.objectContaining({ field: 'brief.range' }));
  expect((await ask('get', '/shots')).shots).toMatchObject([{ name: 'orr_010' }]);
  expect(await work(id, { kind: 'count' })).toMatchObject({ state: 'done', kind: 'count' });
  const state = (await ask('get', '/shots/{shot}', shot)) as {
    passes: { states: { sound: number } }[];
    gates: { name: string; state: string }[];
    counted: { content: string };
  };
  expect(state.passes[0]!.states.sound).toBe(FRAMES);
  expect(await ask('get', '/shots/{shot}/brief', shot)).toMatchObject({ shot: 'orr_010' });
  expect(await ask('put', '/shots/{shot}/brief', shot, { ...brief, version: 'v002' })).toMatchObject({ version: 2 });
  await work(id, { kind: 'count' });
  expect((await ask('get', '/shots/{shot}/files', shot)).total).toBe(FRAMES);
  expect(await ask('get', '/shots/{shot}/batch', shot)).toEqual({ batch: null, left: '' });
  await ask('put', '/shots/{shot}/batch', shot, { action: 'wish', wanted: 'pause' }, 400);
  await ask('post', '/shots/{shot}/batch', shot, { service: 'nobody' }, 400);
  expect(await ask('get', '/shots/{shot}/assay', shot)).toEqual({ assay: null });
  await ask('get', '/shots/{shot}/still', shot, undefined, 400);
  expect(await work(id, { kind: 'package', root: 'deliveries', folder: 'one', person: 'Mira Holm' })).toMatchObject({
    state: 'failed',
    error: { code: 'not-ready' },
  });
  const { content } = ((await ask('get', '/shots/{shot}', shot)) as typeof state).counted;
  const open = ['passes', 'noise', 'eyes'].filter((name) => state.gates.some((gate) => gate.name === name && gate.state === 'unmeasured'));
  const subjects = open.map((gate) => ({ kind: 'gate', gate, content }));
  await ask('post', '/shots/{shot}/waivers', shot, { subjects, person: 'Mira Holm', reason: 'Agreed with the lead.' }, 201);
  await ask('post', '/shots/{shot}/waivers', shot, { subjects: [{ kind: 'gate', gate: 'count', content: '' }], person: 'Mira Holm', reason: 'x' }, 400);
  await ask('delete', '/shots/{shot}/waivers/{waiver}', { ...shot, waiver: 999 });
  await ask('post', '/shots/{shot}/stamps', shot, { kind: 'signed', content: 'a'.repeat(64), person: 'Mira Holm' }, 409);
  await ask('post', '/shots/{shot}/stamps', shot, { kind: 'signed', content, person: 'Mira Holm' }, 201);
  expect(await work(id, { kind: 'package', root: 'deliveries', folder: 'one', person: 'Mira Holm' })).toMatchObject({ state: 'done' });
  expect(await work(id, { kind: 'sheet', root: 'deliveries', file: 'one.png', settings: { passes: ['beauty'] } })).toMatchObject({ state: 'done' });
  const made = (await ask('get', '/shots/{shot}/handoff', shot)) as { packages: { manifestSha256: string }[] };
  expect(made).toMatchObject({ stamp: { person: 'Mira Holm' }, sheets: [{ pictures: FRAMES, isThere: true }] });
  const receipt = {
    kind: 'mint-tally-receipt',
    shot: 'orr_010',
    manifestSha256: made.packages[0]!.manifestSha256,
    valid: true,
    ready: true,
    files: FRAMES,
    bytes: 1,
    problems: [],
    person: 'Ivo',
    at: '2026-11-29T00:00:00.000Z',
  };
  expect((await ask('post', '/shots/{shot}/receipts', shot, receipt, 201)).package).toBeGreaterThan(0);
  expect(await ask('get', '/shots/{shot}/report', shot)).toMatchObject({ ready: true, stamp: { person: 'Mira Holm' } });
  // A mend, as it was previewed, and back.
  const [own, odd] = [frameFile(application.shots, 1002), path.join(application.shots, 'orr_010', 'Beauty_1002.png')];
  renameSync(own, odd);
  await work(id, { kind: 'count' });
  const wish = { kind: 'rename', aside: [] };
  const { preview } = (await ask('post', '/shots/{shot}/mends/preview', shot, { wish })) as { preview: { seen: string } };
  expect(preview).toMatchObject({ stepCount: 1, steps: [{ action: 'rename', from: 'Beauty_1002.png', to: 'beauty.1002.png' }], conflictCount: 0 });
  expect(await work(id, { kind: 'mend', action: 'apply', wish, seen: 'f'.repeat(64) })).toMatchObject({ state: 'failed' });
  expect(await work(id, { kind: 'mend', action: 'apply', wish, seen: preview.seen })).toMatchObject({ state: 'done' });
  expect(existsSync(own)).toBe(true);
  const { mends } = (await ask('get', '/shots/{shot}/mends', shot)) as { mends: { undo: string }[] };
  expect(await work(id, { kind: 'mend', action: 'undo', wish: null, seen: mends[0]!.undo })).toMatchObject({ state: 'done' });
  expect([existsSync(own), existsSync(odd)]).toEqual([false, true]);
  renameSync(odd, own);
  expect(await ask('get', '/shots/{shot}/merge', shot)).toEqual({ merge: null });
  await ask('post', '/shots/{shot}/merge', shot, { action: 'run', merge: 1 }, 404);
  expect(await ask('get', '/shots/{shot}/denoise', shot)).toEqual({ runs: [] });
  await ask('post', '/shots/{shot}/denoise', shot, { action: 'stop', run: 1 }, 404);
  await ask('post', '/shots/{shot}/denoise', shot, { action: 'pause' }, 202);
  await work(id, { kind: 'count' });
  const settings = { priority: 50, badInRow: 3, stopBadMachine: false, chunk: 1 };
  const shares = [{ machine: 'bowline', frames: [1001, 1002] }];
  await ask('post', '/shots/{shot}/batch', shot, { service: null, command: [], shares, overwrite: true, passes: ['beauty'], settings }, 201);
  expect(await ask('get', '/shots/{shot}/batch', shot)).toMatchObject({ batch: { total: 2, outcome: null, machines: [{ name: 'bowline' }] } });
  await ask('put', '/shots/{shot}/batch', shot, { action: 'wish', wanted: 'stop-now' });
  await expect.poll(async () => (await ask('get', '/shots/{shot}/batch', shot)).batch).toMatchObject({ outcome: 'stopped' });
  const { job } = await ask('post', '/shots/{shot}/jobs', shot, { kind: 'count' }, 202);
  await ask('delete', '/jobs/{job}', { job: job as number });
  await ask('post', '/shots/{shot}/jobs', shot, { kind: 'render', batch: 1 }, 400);
  await ask('get', '/shots/{shot}', { shot: 999 }, undefined, 404);
  await ask('get', '/jobs/{job}', { job: 99_999 }, undefined, 404);
  // Every operation of the document was asked.
  expect([...asked].sort()).toEqual(
    Object.entries(paths)
      .flatMap(([route, methods]) => Object.keys(methods).map((method) => `${method} ${route}`))
      .sort(),
  );
});

test('the script of the documentation counts, and fails when the shot is not ready', async ({ application }, info) => {
  const [, script] = /```js\n([\s\S]*?)```/.exec(readFileSync('docs/pipeline.md', 'utf8'))!;
  const [file, order] = [info.outputPath('count.mjs'), info.outputPath('brief.json')];
  mkdirSync(path.dirname(file), { recursive: true });
  writeFileSync(file, script!);
  writeFileSync(order, JSON.stringify({ ...brief, version: 'v002' }));
  const run = () => spawnSync(process.execPath, [file, application.address, 'shots', 'orr_010', order], { encoding: 'utf8', timeout: 60_000 });
  const ready = run();
  expect([ready.status, ready.stdout], ready.stderr).toEqual([0, `beauty: ${FRAMES} of ${FRAMES} sound\n`]);
  rmSync(frameFile(application.shots, 1003));
  const lacking = run();
  expect(lacking.status).toBe(1);
  expect(lacking.stdout).toContain(`beauty: ${FRAMES - 1} of ${FRAMES} sound, missing 1003`);
  expect(lacking.stderr).toContain('count');
});

test('a page of another site may not ask for anything to be done', async ({ application, request }) => {
  const send = (origin: string) => request.post(`${application.address}/api/v1/shots/1/jobs`, { headers: { origin }, data: Buffer.from('{"kind":"count"}') });
  expect((await send('http://elsewhere.example')).status()).toBe(403);
  expect((await send('null')).status()).toBe(403);
  expect((await send(application.address)).status()).toBe(202);
});

test('the page of the API says of each operation what it takes and gives', async ({ page }) => {
  await page.goto('/api');
  await page.getByRole('navigation', { name: 'Operations' }).getByRole('link', { name: 'Attaches a receipt that the other side sent back' }).click();
  const section = page.getByRole('region', { name: 'Attaches a receipt that the other side sent back' });
  await expect(section).toBeInViewport();
  await expect(section).toContainText('POST /api/v1/shots/{shot}/receipts');
  await expect(section.getByRole('table', { name: 'Takes' })).toContainText('manifestSha256');
  await expect(page.getByRole('region')).toHaveCount(Object.values(paths).reduce((sum, methods) => sum + Object.keys(methods).length, 0));
});
