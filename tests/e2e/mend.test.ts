import { mkdirSync, readdirSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import path from 'node:path';
import type { Database } from '@mint-tally/store';
import { pngBytes } from '../support/frames.ts';
import { expect, test } from './application.ts';
import { askForCount, databaseOf, makeShot, untilQuiet } from './asking.ts';

test.use({ instance: 'mend', writable: true });
test.describe.configure({ mode: 'serial' });

let database: Database;
let folder = '';
const FILES = ['Beauty.1001.png', 'Beauty.1002.png', 'beauty.1003.png', 'beauty.1009.png', 'notes.txt'];
const files = () =>
  readdirSync(folder)
    .filter((name) => !name.startsWith('.'))
    .sort();
const tree = () => files().map((name) => `${name} ${readFileSync(path.join(folder, name)).toString('hex')}`);
let before: string[] = [];

test.beforeAll(async ({ application, request }) => {
  folder = path.join(application.shots, 'orr_010');
  mkdirSync(folder);
  FILES.forEach((name, i) => writeFileSync(path.join(folder, name), name.endsWith('.png') ? pngBytes(i) : 'what to look at'));
  before = tree();
  await makeShot(request, application, 'orr_010', { shot: 'orr_010', range: '1001-1004', passes: [{ name: 'beauty', pattern: 'beauty.####.png' }] });
  database = databaseOf(application);
  await askForCount(request, application, 1);
  await untilQuiet(database);
});
test.afterAll(() => database.close());

test('names are put right after a preview, and taken back to the bytes', async ({ page }) => {
  await page.goto('/shots/1/mend');
  await expect(page.getByText('Nothing has been changed yet.')).toBeVisible();
  await page.goto('/shots/1/tally');
  // The docket leads there, with what is to be done filled in.
  const docket = page.getByRole('complementary', { name: 'Docket' });
  await docket.getByRole('button', { name: /^Wrong name/ }).click();
  await docket.getByRole('link', { name: 'Rename…' }).click();
  await expect(page.getByRole('navigation', { name: 'Steps' }).getByRole('link', { name: 'Mend : names to put right' })).toHaveAttribute(
    'aria-current',
    'page',
  );
  const preview = page.getByRole('table', { name: 'What would be done' });
  await expect(preview.getByRole('row', { name: 'rename Beauty.1001.png beauty.1001.png' })).toBeVisible();
  await expect(preview.getByRole('row')).toHaveCount(3);
  expect(tree()).toEqual(before);
  await page.getByRole('button', { name: 'Rename 2 files' }).focus();
  await page.keyboard.press('Enter');
  await expect(page.getByText('There is nothing to do: rename to the brief would change no file.')).toBeVisible();
  await untilQuiet(database);
  expect(files()).toContain('beauty.1001.png');
  const ledger = page.getByRole('table', { name: 'What was changed' });
  await expect(ledger.getByRole('row', { name: /rename to the brief 2 .* stands/ })).toBeVisible();
  const download = page.waitForEvent('download');
  await ledger.getByRole('link', { name: 'List of files of rename to the brief, 2 files' }).click();
  expect(readFileSync(await (await download).path(), 'utf8')).toContain('rename,Beauty.1001.png,beauty.1001.png,');

  await page.getByRole('link', { name: /^Set aside/ }).click();
  await page.getByRole('button', { name: 'Set aside 2 files' }).click();
  await expect(ledger.getByRole('row', { name: /set aside what was not ordered 2/ })).toBeVisible();
  expect(files()).toEqual(['beauty.1001.png', 'beauty.1002.png', 'beauty.1003.png']);
  // The newest goes back first, then the one before.
  await expect(ledger.getByRole('button', { name: 'Take it back' })).toHaveCount(1);
  for (const left of [1, 0]) {
    await ledger.getByRole('button', { name: 'Take it back' }).click();
    await expect(ledger.getByText(/^taken back/)).toHaveCount(2 - left);
    await untilQuiet(database);
  }
  expect(tree()).toEqual(before);
});

test('numbers are moved over each other, and two files for one name are a conflict', async ({ page }) => {
  await page.goto('/shots/1/mend?do=renumber');
  await page.getByLabel('By so many frames').fill('1');
  await page.getByRole('button', { name: 'Preview' }).click();
  await expect(page.getByRole('row', { name: /beauty.1003.png beauty.1004.png frame 1003 becomes 1004/ })).toBeVisible();
  writeFileSync(path.join(folder, 'beauty.01003.png'), pngBytes(77));
  await page.reload();
  await expect(page.getByText('Both would become beauty.1004.png.')).toBeVisible();
  await expect(page.getByRole('button', { name: /^Renumber/ })).toBeDisabled();
  // Somebody decides: one is kept, and what is given up for it is set aside, not lost.
  await page
    .getByRole('listitem')
    .filter({ hasText: /^beauty.01003.png/ })
    .getByRole('link')
    .click();
  await expect(page.getByRole('row', { name: /set aside beauty.1003.png .* another file was chosen for its frame/ })).toBeVisible();
  await page.getByRole('button', { name: /^Renumber/ }).click();
  await expect(page.getByRole('row', { name: /renumber by 1 .* stands/ })).toBeVisible();
  expect(readFileSync(path.join(folder, 'beauty.1004.png'))).toEqual(Buffer.from(pngBytes(77)));
  await page.getByRole('button', { name: 'Take it back' }).click();
  await expect(page.getByText(/^taken back/)).toHaveCount(3);
  await untilQuiet(database);
  expect(files()).toEqual([...FILES, 'beauty.01003.png'].sort());
  const there = tree();
  await page.goto('/shots/1/mend?do=nothing');
  await expect(page.getByText('Choose what is to be mended')).toBeVisible();
  expect(tree()).toEqual(there);
});

test('what has changed since the preview is not done', async ({ page }) => {
  await page.goto('/shots/1/mend?do=trim');
  await expect(page.getByRole('button', { name: 'Set aside 2 files' })).toBeVisible();
  writeFileSync(path.join(folder, 'more.txt'), 'came meanwhile');
  await page.getByRole('button', { name: 'Set aside 2 files' }).click();
  await expect(page.getByRole('alert').filter({ hasText: 'The files have changed since the preview' })).toBeVisible();
  expect(files()).toContain('notes.txt');
  await expect(page.getByRole('button', { name: 'Set aside 3 files' })).toBeVisible();
});

test('what is missing comes from another folder, and is kept and brought back where it made room', async ({ page, application, request }) => {
  rmSync(path.join(folder, 'more.txt'));
  rmSync(path.join(folder, 'beauty.01003.png'));
  const again = path.join(application.shots, 'again');
  mkdirSync(again);
  for (const frame of [1003, 1004]) writeFileSync(path.join(again, `beauty.${frame}.png`), pngBytes(frame));
  writeFileSync(path.join(again, 'beauty.1002.png'), 'no picture');
  await askForCount(request, application, 1);
  await untilQuiet(database);
  const there = tree();
  await page.goto('/shots/1/mend?do=patch&frames=1002-1004');
  await page.getByRole('button', { name: 'Choose a folder…' }).click();
  await page.getByRole('dialog').getByText('again').click();
  await page.getByRole('button', { name: 'Use this folder' }).click();
  await page.getByRole('button', { name: 'Preview', exact: true }).click();
  // What is not sound stays out, with its reason; the ribbon says what the rest comes to.
  await expect(page.getByRole('region', { name: 'What is left out' })).toContainText('1002');
  await expect(page.getByRole('region', { name: 'The ribbon as it will be' })).toContainText('1 missing');
  await page.getByRole('button', { name: 'Bring 2 files' }).click();
  await expect(page.getByRole('row', { name: /patch 1002-1004 from again 3 .* stands/ })).toBeVisible();
  await untilQuiet(database);
  expect(readFileSync(path.join(folder, 'beauty.1003.png'))).toEqual(Buffer.from(pngBytes(1003)));
  await page.getByRole('link', { name: /^What is kept/ }).click();
  const kept = page.getByRole('listitem', { name: 'patch 1002-1004 from again' });
  await expect(kept.getByText('beauty.1003.png')).toBeVisible();
  // A day is set, and leaving the question changes nothing.
  await kept.getByLabel('until').fill('2031-05-01');
  await kept.getByRole('button', { name: 'Keep', exact: true }).click();
  await expect(kept.getByText(/kept until 1 May 2031.* as somebody said/)).toBeVisible();
  await kept.getByRole('button', { name: 'Let go…' }).click();
  await page.getByRole('dialog').getByRole('button', { name: 'Keep it' }).click();
  await expect(kept.getByText('beauty.1003.png')).toBeVisible();
  await kept.getByRole('link', { name: 'Bring back beauty.1003.png' }).click();
  await expect(page.getByText('beauty.1003.png is there already.')).toBeVisible();
  await page.getByRole('table', { name: 'What was changed' }).getByRole('button', { name: 'Take it back' }).click();
  await expect(page.getByText(/^taken back/)).toHaveCount(4);
  await untilQuiet(database);
  expect(tree()).toEqual(there);
});

test('frames are put on the list from a finding and by hand, and come off it', async ({ page }) => {
  await page.goto('/shots/1/tally');
  const docket = page.getByRole('complementary', { name: 'Docket' });
  await docket.getByRole('button', { name: /^Frames missing/ }).click();
  await docket.getByRole('button', { name: 'Render these…' }).click();
  await expect(page.getByRole('heading', { name: 'Mend list: 1 frame to come' })).toBeVisible();
  await page.getByLabel('Frames', { exact: true }).fill('1001-1002,7');
  await page.getByLabel('Why').fill('the lamp flickers');
  await page.getByRole('button', { name: 'Put on the list' }).click();
  const list = page.getByRole('table', { name: 'Frames to render again' });
  await expect(list.getByRole('row', { name: /the lamp flickers .* all passes 1001-1002 beauty 1001-1002 0 of 2 back/ })).toBeVisible();
  // What nobody ordered is refused, with its reason.
  await page.getByLabel('Frames', { exact: true }).fill('9000');
  await page.getByLabel('Why').fill('x');
  await page.getByRole('button', { name: 'Put on the list' }).click();
  await expect(page.getByText('None of 9000 is ordered.')).toBeVisible();
  await page.getByRole('link', { name: 'Render these…' }).click();
  await expect(page.getByRole('list', { name: 'On the list to render again' })).toContainText('1001-1002,1004');
  await expect(page.getByRole('button', { name: 'Chosen' }).first()).toBeDisabled();
  await page.goBack();
  await list.getByRole('button', { name: 'Take off' }).first().click();
  await expect(list.getByRole('row')).toHaveCount(2);
});
