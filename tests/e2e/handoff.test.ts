import { spawnSync } from 'node:child_process';
import { createHash } from 'node:crypto';
import { existsSync, mkdirSync, readdirSync, readFileSync, writeFileSync } from 'node:fs';
import path from 'node:path';
import { RECEIPT_KIND, receiptSchema, reportSchema } from '@mint-tally/core';
import type { Database } from '@mint-tally/store';
import { pngBytes } from '../support/frames.ts';
import { expect, test } from './application.ts';
import { askForCount, databaseOf, makeShot, untilQuiet } from './asking.ts';

test.use({ instance: 'handoff', writable: true });
test.describe.configure({ mode: 'serial' });

let database: Database;
let folder = '';
const FRAMES = 12;
const frameFile = (pass: string, frame: number) => path.join(folder, `${pass}.${frame}.png`);

test.beforeAll(async ({ application, request }) => {
  folder = path.join(application.shots, 'orr_010');
  mkdirSync(folder);
  for (let frame = 1001; frame < 1001 + FRAMES; frame++) {
    writeFileSync(frameFile('beauty', frame), pngBytes(frame, 64, 36));
    writeFileSync(frameFile('matte', frame), pngBytes(frame + 900, 64, 36));
  }
  const passes = ['beauty', 'matte'].map((name) => ({ name, pattern: `${name}.####.png`, watch: false }));
  await makeShot(request, application, 'orr_010', { shot: 'orr_010', range: `1001-${1000 + FRAMES}`, fps: '23.976', version: 'v003', handles: [2, 2], passes });
  database = databaseOf(application);
  await askForCount(request, application, 1);
  await untilQuiet(database);
});
test.afterAll(() => database.close());

test('a version is signed off by name, sent back with a note, and the word is taken back', async ({ page }) => {
  await page.goto('/shots/1/handoff');
  const stamp = page.getByTestId('stamp');
  await expect(stamp).toHaveText('Nobody has signed orr_010 v003 off yet.');
  await expect(page.getByRole('button', { name: 'Sign off the version…' })).toBeDisabled();
  await page.getByRole('button', { name: /^Sign off: passes, noise/ }).click();
  const dialog = page.getByRole('dialog');
  await dialog.getByLabel('Your name').fill('Mira Holm');
  await dialog.getByLabel('Why it is fine').fill('Looked at on the big screen.');
  await dialog.getByRole('button', { name: 'Waive' }).click();
  await expect(page.getByRole('heading', { name: 'Ready to hand over' })).toBeVisible();

  await page.getByRole('button', { name: 'Sign off the version…' }).click();
  await dialog.getByRole('button', { name: 'Cancel' }).click();
  await expect(stamp).toHaveText('Nobody has signed orr_010 v003 off yet.');
  await page.getByRole('button', { name: 'Sign off the version…' }).click();
  await dialog.getByRole('button', { name: 'Sign off' }).click();
  await expect(stamp).toContainText('Signed off by Mira Holm');
  await page.getByRole('button', { name: 'Send back…' }).click();
  await dialog.getByRole('button', { name: 'Send back' }).click();
  await expect(dialog.getByText('Say what is to be done')).toBeVisible();
  await dialog.getByLabel('What is to be done').fill('The lamps flicker at the end.');
  await dialog.getByRole('button', { name: 'Send back' }).click();
  await expect(stamp).toContainText('Sent back by Mira Holm');
  await expect(stamp).toContainText('The lamps flicker at the end.');
  await page.getByRole('button', { name: 'Take the word back' }).click();
  await expect(stamp).toContainText('Signed off by Mira Holm');
});

test('a package is of chosen passes and frames, with the note as it was edited', async ({ page, application }) => {
  await page.goto('/shots/1/handoff');
  await page.getByLabel('Into').selectOption('deliveries');
  await page.getByLabel('Folder').fill('cut_001');
  await page.getByLabel('Handed over by').fill('Mira Holm');
  await page.getByText('Passes, frames, form').click();
  await page.getByRole('checkbox', { name: 'matte' }).uncheck();
  await page.getByRole('checkbox', { name: 'beauty' }).uncheck();
  await page.getByRole('button', { name: 'Write package' }).click();
  await expect(page.getByText('Choose a pass at least.')).toBeVisible();
  await page.getByRole('checkbox', { name: 'beauty' }).check();
  await page.getByRole('checkbox', { name: /^without the handles/ }).check();
  await page.getByRole('checkbox', { name: 'SHA-512' }).check();
  await page.getByText('Note to the compositor').first().click();
  const note = page.getByRole('textbox', { name: 'Note to the compositor' });
  await expect(note).toHaveValue(/^# orr_010 v003: note to the compositor/);
  await note.fill('Read me first.');
  await page.getByRole('button', { name: 'Write package' }).click();
  await expect(page.getByRole('heading', { name: 'Handed over' })).toBeVisible();
  const bag = path.join(application.deliveries, 'cut_001');
  const frames = readdirSync(path.join(bag, 'data')).filter((name) => name.endsWith('.png'));
  expect([frames.length, frames[0], frames.at(-1)]).toEqual([FRAMES - 4, 'beauty.1003.png', `beauty.${1000 + FRAMES - 2}.png`]);
  expect(readFileSync(path.join(bag, 'data/note.md'), 'utf8')).toBe('Read me first.\n');
  for (const sum of ['sha256', 'sha512']) expect(spawnSync(`${sum}sum`, ['-c', '--quiet', `manifest-${sum}.txt`], { cwd: bag }).status).toBe(0);
  await expect(page.getByRole('region', { name: 'Packages' }).getByRole('row', { name: /cut_001/ })).toContainText('beauty, without handles');
});

test('a receipt that came back stands with its package, one of another is told, and what is no receipt is refused', async ({ page, application }) => {
  const bag = path.join(application.deliveries, 'cut_001');
  const manifestSha256 = spawnSync('sha256sum', [path.join(bag, 'manifest-sha256.txt')], { encoding: 'utf8' }).stdout.slice(0, 64);
  const receipt = (sum: string) => ({
    ...{ kind: RECEIPT_KIND, shot: 'orr_010', manifestSha256: sum, valid: true, ready: true, files: 13, bytes: 9, problems: [], person: 'Ivo Brandt' },
    at: '2026-01-02T03:04:05.000Z',
  });
  await page.goto('/shots/1/handoff');
  const packages = page.getByRole('region', { name: 'Packages' });
  const attach = async (name: string, text: string) => {
    await packages.getByLabel('A receipt that came back').setInputFiles({ name, mimeType: 'application/json', buffer: Buffer.from(text) });
    await packages.getByRole('button', { name: 'Attach' }).click();
  };
  await attach('holiday.json', '{"a":1}');
  await expect(packages.getByText('holiday.json is no receipt of Mint Tally.')).toBeVisible();
  await attach('receipt.json', JSON.stringify(receipt(manifestSha256)));
  await expect(packages.getByRole('row', { name: /cut_001/ })).toContainText('arrived whole, 13 files; Ivo Brandt');
  await attach('other.json', JSON.stringify(receipt('e'.repeat(64))));
  await expect(packages.getByText('It is of another package than those of this shot')).toBeVisible();
});

test('what is new since a package goes alone, and a changed frame breaks the stamp', async ({ page, application, request }) => {
  writeFileSync(frameFile('beauty', 1004), pngBytes(4444, 64, 36));
  await askForCount(request, application, 1);
  await untilQuiet(database);
  await page.goto('/shots/1/handoff');
  await expect(page.getByTestId('stamp')).toContainText('The stamp of Mira Holm is broken');
  await expect(page.getByTestId('stamp')).toContainText('beauty.1004.png');
  await page.getByRole('button', { name: /^Sign off: passes, noise/ }).click();
  const dialog = page.getByRole('dialog');
  await dialog.getByLabel('Your name').fill('Mira Holm');
  await dialog.getByLabel('Why it is fine').fill('One frame again, looked at.');
  await dialog.getByRole('button', { name: 'Waive' }).click();
  await expect(page.getByRole('heading', { name: 'Ready to hand over' })).toBeVisible();
  await page.getByLabel('Into').selectOption('deliveries');
  await page.getByLabel('Folder').fill('cut_002');
  await page.getByLabel('What goes').selectOption({ index: 1 });
  await page.getByText('Passes, frames, form').click();
  await page.getByRole('checkbox', { name: 'matte' }).uncheck();
  await page.getByRole('checkbox', { name: /^without the handles/ }).check();
  await page.getByRole('button', { name: 'Write package' }).click();
  await expect(page.getByRole('heading', { name: 'Handed over' })).toBeVisible();
  const data = path.join(application.deliveries, 'cut_002', 'data');
  expect(readdirSync(data).filter((name) => name.endsWith('.png'))).toEqual(['beauty.1004.png']);
  expect(JSON.parse(readFileSync(path.join(data, 'delta.json'), 'utf8'))).toMatchObject({ unchanged: FRAMES - 5, gone: [] });
});

test('a review movie is made, and streams in the parts that a player asks for', async ({ page, application, request }) => {
  await page.goto('/shots/1/handoff');
  await page.getByRole('button', { name: 'Review movie' }).click();
  await page.getByLabel('Into').selectOption('deliveries');
  await page.getByLabel('File').fill('orr_010/x.mp4');
  await page.getByRole('button', { name: 'Make movie' }).click();
  const movies = page.getByRole('region', { name: 'Movies' });
  await expect(movies.getByRole('row', { name: /orr_010\/x\.mp4/ })).toContainText(`${FRAMES} frames at 23.976`);
  const file = path.join(application.deliveries, 'orr_010', 'x.mp4');
  expect(existsSync(file)).toBe(true);
  const bytes = readFileSync(file);
  const href = (await movies.getByRole('link', { name: 'Watch' }).getAttribute('href'))!;
  const whole = await request.get(href);
  expect([whole.status(), whole.headers()['accept-ranges'], (await whole.body()).equals(bytes)]).toEqual([200, 'bytes', true]);
  const part = await request.get(href, { headers: { range: 'bytes=100-199' } });
  expect([part.status(), part.headers()['content-range'], (await part.body()).equals(bytes.subarray(100, 200))]).toEqual([
    206,
    `bytes 100-199/${bytes.length}`,
    true,
  ]);
  expect((await request.get(href, { headers: { range: `bytes=${bytes.length}-` } })).status()).toBe(416);
  expect((await request.get(href.replace(/\d+$/, '999'))).status()).toBe(404);
  // The same name again is refused, and says so.
  await page.getByLabel('File').fill('orr_010/x.mp4');
  await page.getByRole('button', { name: 'Make movie' }).click();
  await expect(page.getByText('There is a file x.mp4 already.')).toBeVisible();
});

test('another version’s folder stands beside the pictures of a movie', async ({ page, application }) => {
  // Of the same layout, with a frame that is not there.
  mkdirSync(path.join(application.shots, 'orr_010_v002'));
  for (let frame = 1002; frame < 1001 + FRAMES; frame++)
    writeFileSync(path.join(application.shots, 'orr_010_v002', `beauty.${frame}.png`), pngBytes(frame + 50, 64, 36));
  await page.goto('/shots/1/handoff');
  await page.getByRole('button', { name: 'Review movie' }).click();
  await page.getByText('Look, size, comparing').click();
  await page.getByRole('button', { name: 'Another version’s folder…' }).click();
  const dialog = page.getByRole('dialog', { name: 'Which folder stands beside?' });
  await dialog
    .getByRole('button', { name: /^shots/ })
    .first()
    .click();
  await dialog.getByRole('button', { name: 'orr_010_v002' }).click();
  await dialog.getByRole('button', { name: 'Use this folder' }).click();
  await expect(page.getByText('shots/orr_010_v002')).toBeVisible();
  await page.getByLabel('Into').selectOption('deliveries');
  await page.getByLabel('File').fill('beside.mp4');
  await page.getByRole('button', { name: 'Make movie' }).click();
  // As wide as both.
  await expect(page.getByRole('region', { name: 'Movies' }).getByRole('row', { name: /beside\.mp4/ })).toContainText('128 x 36');
});

test('a contact sheet is made and streams; what is wrong with one is told', async ({ page, application, request }) => {
  await page.goto('/shots/1/handoff');
  await page.getByRole('button', { name: 'Contact sheet' }).click();
  await page.getByLabel('Into').selectOption('deliveries');
  await page.getByLabel('File').fill('sheets/one.png');
  await page.getByLabel('Columns').fill('99');
  await page.getByRole('button', { name: 'Make contact sheet' }).click();
  await expect(page.getByText('At most 16 columns.')).toBeVisible();
  await page.getByLabel('Columns').fill('4');
  await page.getByRole('button', { name: 'Make contact sheet' }).click();
  const sheets = page.getByRole('region', { name: 'Contact sheets' });
  await expect(sheets.getByRole('row', { name: /sheets\/one\.png/ })).toContainText(`${FRAMES} pictures`);
  const href = (await sheets.getByRole('link', { name: 'Open' }).getAttribute('href'))!;
  const bytes = readFileSync(path.join(application.deliveries, 'sheets', 'one.png'));
  const part = await request.get(href, { headers: { range: 'bytes=1-3' } });
  expect([part.status(), (await part.body()).equals(bytes.subarray(1, 4)), part.headers()['content-type']]).toEqual([206, true, 'image/png']);
});

test('a report says on a page, as JSON and as PDF what is known, and a package streams file by file', async ({ page, request }) => {
  await page.goto('/shots/1/handoff');
  await page.getByRole('link', { name: 'Report' }).click();
  await expect(page.getByRole('table', { name: 'Gates' }).getByRole('row')).toHaveCount(7);
  const report = reportSchema.parse(await (await request.get('/shots/1/export/report.json')).json());
  expect(report).toMatchObject({ shot: 'orr_010', kind: 'mint-tally-report' });
  for (const { expected, states } of report.passes) expect(Object.values(states).reduce((sum, count) => sum + count, 0)).toBe(expected);
  const counts = page.getByRole('table', { name: 'Counts' });
  for (const { name, expected } of report.passes) await expect(counts.getByRole('row', { name: new RegExp(`^${name}`) })).toContainText(String(expected));
  const pdf = await request.get('/shots/1/export/report.pdf');
  expect([pdf.status(), pdf.headers()['content-type'], (await pdf.body()).subarray(0, 5).toString()]).toEqual([200, 'application/pdf', '%PDF-']);
  const [first] = report.packages;
  const manifest = await request.get('/shots/1/handoff/package/1/manifest-sha256.txt');
  expect(
    createHash('sha256')
      .update(await manifest.body())
      .digest('hex'),
  ).toBe(report.packages.at(-1)!.manifestSha256);
  expect(first).toBeDefined();
  expect((await request.get('/shots/1/handoff/package/1/%2e%2e/%2e%2e/x')).status()).toBeGreaterThanOrEqual(400);
});

test('a package that arrived is opened, verified and counted; a byte that changed is told, and the receipt says so', async ({ page, application, request }) => {
  await page.goto('/shots/new');
  await page.getByRole('button', { name: /deliveries/ }).click();
  await page.getByRole('button', { name: 'cut_002' }).click();
  await page.getByRole('button', { name: 'Use this folder' }).click();
  await expect(page.getByRole('heading', { name: 'This folder is a package' })).toBeVisible();
  await expect(page.getByLabel('Name of the shot here')).toHaveValue('orr_010 arrived');
  await page.getByLabel(/Your name/).fill('Ivo Marsh');
  await page.getByRole('button', { name: 'Open, verify and count' }).click();
  const arrived = page.getByRole('region', { name: 'The package that arrived' });
  await expect(arrived.getByRole('heading', { name: /Arrived whole/ })).toBeVisible();
  const shot = /\/shots\/(\d+)\//.exec(page.url())![1]!;
  const file = path.join(application.deliveries, 'cut_002', 'data', 'beauty.1004.png');
  const bytes = readFileSync(file);
  bytes[bytes.length - 20]! ^= 1;
  writeFileSync(file, bytes);
  await arrived.getByRole('button', { name: 'Verify again' }).click();
  await expect(arrived.getByRole('heading', { name: 'Not as it was packed' })).toBeVisible();
  await expect(arrived.getByRole('list', { name: 'Problems of the package' })).toContainText('data/beauty.1004.png is not what manifest-sha256.txt says');
  const receipt = receiptSchema.parse(await (await request.get(`/shots/${shot}/export/receipt.json`)).json());
  expect(receipt).toMatchObject({ valid: false, person: 'Ivo Marsh', problems: [{ code: 'changed-file', file: 'data/beauty.1004.png' }] });
});
