import { mkdirSync, rmSync } from 'node:fs';
import path from 'node:path';
import type { Database } from '@mint-tally/store';
import { writeSequence } from '../support/frames.ts';
import { expect, test } from './application.ts';
import { askForCount, databaseOf, makeShot, renew, untilQuiet } from './asking.ts';

// What happens elsewhere renews the pages' data; what somebody has opened, typed, chosen or scrolled to stays.
test.use({ instance: 'renewal', writable: true });
test.describe.configure({ mode: 'serial' });

let database: Database;
const OTHER = 1;
const OWN = 2;

test.beforeAll(async ({ application, request }) => {
  database = databaseOf(application);
  for (const shot of ['other', 'orr_010', 'orr_020']) {
    const folder = path.join(application.shots, shot);
    writeSequence(folder, 1001, 1300, (frame) => `${shot}_beauty.${frame}.png`);
    for (const frame of [1003, 1004, 1200]) rmSync(path.join(folder, `${shot}_beauty.${frame}.png`));
    await makeShot(request, application, shot, {
      shot,
      range: '1001-1300',
      resolution: [32, 18],
      passes: [{ name: 'beauty', pattern: `${shot}_beauty.####.png` }],
    });
  }
  for (const folder of ['deep/deeper/deepest', 'sources/bowline']) mkdirSync(path.join(application.shots, folder), { recursive: true });
  await untilQuiet(database);
});
test.afterAll(() => database.close());

test('the folders of a new shot, and what is typed into its brief', async ({ page, application }) => {
  await page.goto('/shots/new');
  const where = page.getByRole('navigation', { name: 'Where this is' });
  for (const [i, name] of ['deep', 'deeper', 'deepest'].entries()) {
    await page.getByRole('button', { name, exact: true }).click();
    await expect(where.getByRole('button')).toHaveCount(i + 2);
    await renew(page, application, OTHER);
    await expect(where.getByRole('button').last()).toHaveText(name);
  }
  await page.getByRole('button', { name: 'Use this folder' }).click();
  await expect(page.getByText('shots/deep/deeper/deepest')).toBeVisible();
  for (const [label, value] of [
    ['Frame range', '1-50'],
    ['Width', '1920'],
    ['Name pattern of beauty', 'beauty/typed.####.exr'],
  ]) {
    await page.getByLabel(label).fill(value);
    await renew(page, application, OTHER);
    await expect(page.getByLabel(label)).toHaveValue(value);
  }
  await expect(page.getByLabel('Frame range')).toHaveValue('1-50');
});

test('docket, ribbon and dialog of the Tally', async ({ page, application }) => {
  await page.goto(`/shots/${OWN}/tally`);
  const docket = page.getByRole('complementary', { name: 'Docket' });
  const finding = docket.getByRole('button', { name: /Frames missing/ });
  await finding.click();
  await renew(page, application, OWN);
  await expect(finding).toHaveAttribute('aria-expanded', 'true');
  await expect(page.getByText(/Selection 1003-1004,1200/)).toBeVisible();

  const playhead = page.getByRole('slider', { name: 'Playhead' });
  await page.keyboard.press('n');
  await page.keyboard.press('+');
  await page.keyboard.press('+');
  const all = page.getByRole('button', { name: 'Show all frames' });
  await expect(all).toBeEnabled();
  const frame = await playhead.getAttribute('aria-valuenow');
  await renew(page, application, OWN);
  await expect(playhead).toHaveAttribute('aria-valuenow', frame!);
  await expect(all).toBeEnabled();

  await docket.getByRole('button', { name: 'Waive…' }).click();
  const dialog = page.getByRole('dialog');
  await dialog.getByLabel('Why it is fine').fill('Half a sentence');
  await renew(page, application, OWN);
  await expect(dialog.getByLabel('Why it is fine')).toHaveValue('Half a sentence');
  // What is waived stays what was asked about, also when the count finds more meanwhile.
  rmSync(path.join(application.shots, 'orr_010', 'orr_010_beauty.1100.png'));
  await renew(page, application, OWN);
  await expect(dialog.getByLabel('Why it is fine')).toHaveValue('Half a sentence');
  await dialog.getByLabel('Your name').fill('Ada Ferrow');
  await dialog.getByRole('button', { name: 'Waive' }).click();
  await expect(dialog.getByRole('alert')).toContainText('1003-1004,1200');
  await dialog.getByRole('button', { name: 'Waive all the same' }).click();
  await expect(dialog).toBeHidden();
  const [{ subject }] = await database.rows('SELECT subject FROM waivers WHERE shot_id = ?', [OWN]);
  expect(JSON.parse(subject as string)).toMatchObject({ frames: '1003-1004,1200' });
});

test('the table of files: its order, its words, its place', async ({ page, application }) => {
  await page.goto(`/shots/${OWN}/tally`);
  await page.getByRole('tab', { name: 'Files' }).click();
  const table = page.getByRole('table', { name: 'Files' });
  await page.getByLabel('Part of a name').fill('beauty.1');
  await page.getByRole('columnheader', { name: 'Frame' }).getByRole('button').click();
  await expect(table.getByRole('row').nth(1)).toContainText('1001');
  const scroller = table;
  await scroller.evaluate((element) => (element.scrollTop = 3000));
  await expect(table.getByText(/beauty\.11\d\d/).first()).toBeVisible();
  const top = await scroller.evaluate((element) => element.scrollTop);
  await renew(page, application, OWN);
  await expect(table.getByText(/beauty\.11\d\d/).first()).toBeVisible();
  expect(await scroller.evaluate((element) => element.scrollTop)).toBe(top);
  await expect(page.getByLabel('Part of a name')).toHaveValue('beauty.1');
});

test('the brief while it is changed, and its dialogs', async ({ page, application }) => {
  await page.goto(`/shots/${OWN}/brief`);
  await page.getByLabel('Frame range').fill('1001-1250');
  await renew(page, application, OWN);
  await expect(page.getByLabel('Frame range')).toHaveValue('1001-1250');
  await expect(page.getByText('Not saved yet')).toBeVisible();
  await page.getByRole('button', { name: 'Undo' }).click();

  await page.getByRole('button', { name: 'Copy brief to shots' }).click();
  const dialog = page.getByRole('dialog');
  await dialog.getByLabel('orr_020').check();
  await dialog.getByLabel('They keep their own frames').uncheck();
  await renew(page, application, OWN);
  await expect(dialog.getByLabel('orr_020')).toBeChecked();
  await expect(dialog.getByLabel('They keep their own frames')).not.toBeChecked();
  await dialog.getByRole('button', { name: 'Close' }).click();

  await page.getByRole('button', { name: 'Save as…' }).click();
  await dialog.getByLabel('Name', { exact: true }).fill('half a name');
  await renew(page, application, OWN);
  await expect(dialog.getByLabel('Name', { exact: true })).toHaveValue('half a name');
  await dialog.getByRole('button', { name: 'Cancel' }).click();

  await page.getByLabel('At samples').fill('8 32');
  await page.getByRole('button', { name: 'Measure from a folder…' }).click();
  await dialog.getByRole('button', { name: 'deep', exact: true }).click();
  await expect(dialog.getByRole('button', { name: 'deeper', exact: true })).toBeVisible();
  await renew(page, application, OWN);
  await expect(dialog.getByRole('button', { name: 'deeper', exact: true })).toBeVisible();
  await dialog.getByRole('button', { name: 'Cancel' }).click();
  await expect(page.getByLabel('At samples')).toHaveValue('8 32');
});

test('a split that somebody makes up', async ({ page, application }) => {
  await page.goto(`/shots/${OWN}/batch`);
  const frames = page.getByLabel('Frames', { exact: true });
  await expect(frames).toHaveValue('1003-1004,1100,1200');
  // Nobody has touched it: it follows what is counted.
  rmSync(path.join(application.shots, 'orr_010', 'orr_010_beauty.1101.png'));
  await renew(page, application, OWN);
  await expect(frames).toHaveValue('1003-1004,1100-1101,1200');
  await frames.fill('1003-1004');
  rmSync(path.join(application.shots, 'orr_010', 'orr_010_beauty.1102.png'));
  await renew(page, application, OWN);
  await expect(frames).toHaveValue('1003-1004');
  await expect(page.getByText('What is left to render has changed since you began here: 1003-1004,1100-1102,1200.')).toBeVisible();
  await page.getByRole('button', { name: 'Begin anew with that' }).click();
  await expect(frames).toHaveValue('1003-1004,1100-1102,1200');
});

test('the folders of a merge', async ({ page, application }) => {
  await page.goto(`/shots/${OWN}/batch/merge`);
  await page.getByRole('button', { name: 'Add a folder…' }).click();
  const dialog = page.getByRole('dialog');
  await dialog.getByRole('button', { name: 'sources', exact: true }).click();
  await expect(dialog.getByRole('button', { name: 'bowline', exact: true })).toBeVisible();
  await renew(page, application, OWN);
  await dialog.getByRole('button', { name: 'bowline', exact: true }).click();
  await expect(dialog.getByText('No folders in here')).toBeVisible();
  await renew(page, application, OWN);
  await dialog.getByRole('button', { name: 'Use this folder' }).click();
  await expect(page.getByText('shots/sources/bowline')).toBeVisible();
  await page.getByLabel('How').selectOption('move');
  await renew(page, application, OWN);
  await expect(page.getByText('shots/sources/bowline')).toBeVisible();
  await expect(page.getByLabel('How')).toHaveValue('move');
});

test('the folder of a package', async ({ page, application }) => {
  await page.goto(`/shots/${OWN}/handoff`);
  await page.getByLabel('Folder', { exact: true }).fill('reel/typed');
  await page.getByLabel('Into').selectOption('deliveries');
  await renew(page, application, OWN);
  await askForCount(page.request, application, OWN);
  await untilQuiet(database);
  await expect(page.getByLabel('Folder', { exact: true })).toHaveValue('reel/typed');
  await expect(page.getByLabel('Into')).toHaveValue('deliveries');
});

test('nothing is read anew for news of another shot', async ({ page, application, request }) => {
  await page.goto(`/shots/${OWN}/tally`);
  await expect(page.locator('html')).toHaveAttribute('data-alive', '');
  const asked: string[] = [];
  page.on('request', (asking) => asking.url().includes('__data.json') && asked.push(asking.url()));
  await askForCount(request, application, OTHER);
  await untilQuiet(database);
  // News of this shot come after those of the other: when they have been heard, so have these.
  await renew(page, application, OWN);
  expect(asked).toHaveLength(1);
});

test('a version that was restored is shown, also when other news overtake it', async ({ page, application }) => {
  await page.goto(`/shots/${OWN}/brief`);
  await page.getByLabel('Frame range').fill('1001-1290');
  await page.getByRole('button', { name: 'Save and count again' }).click();
  await expect(page.getByText('brief v2')).toBeVisible();
  await untilQuiet(database);
  // While the page looks at what was restored, news have it look again: the first look comes to nothing, the later ones last.
  let looks = 0;
  await page.route('**/__data.json*', async (route) => {
    const look = looks++;
    if (look === 0) await askForCount(page.request, application, OWN);
    await new Promise((resolve) => setTimeout(resolve, look === 0 ? 1500 : 3000));
    await route.continue().catch(() => undefined);
  });
  await page.getByRole('button', { name: 'Versions' }).click();
  await page.getByRole('button', { name: 'Restore v1 as v3' }).click();
  await expect(page.getByRole('dialog')).toBeHidden();
  await expect(page.getByLabel('Frame range')).toHaveValue('1001-1300');
  expect(looks).toBeGreaterThan(1);
  await page.getByRole('button', { name: 'Undo' }).click();
  await expect(page.getByLabel('Frame range')).toHaveValue('1001-1290');
});
