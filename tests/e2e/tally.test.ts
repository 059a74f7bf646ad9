import { copyFileSync, renameSync, rmSync, truncateSync, utimesSync } from 'node:fs';
import path from 'node:path';
import { writeSequence } from '../support/frames.ts';
import { expect, test } from './application.ts';

test.use({ instance: 'tally' });
test.describe.configure({ mode: 'serial' });

const beauty = (frame: string | number) => `beauty/orr_090_beauty.${frame}.png`;
const depth = (frame: string | number) => `depth/orr_090_depth.${frame}.png`;

test('a shot with troubles of several families is counted', async ({ page, application }) => {
  const folder = path.join(application.shots, 'orr_090');
  writeSequence(folder, 1001, 1040, beauty);
  writeSequence(folder, 1001, 1040, depth);
  rmSync(path.join(folder, beauty(1005)));
  truncateSync(path.join(folder, beauty(1010)), 60);
  renameSync(path.join(folder, depth(1020)), path.join(folder, 'depth/orr_090_Depth_1020.png'));
  await page.goto('/shots/new');
  await page.getByRole('button', { name: 'orr_090' }).click();
  await expect(page.getByRole('button', { name: 'beauty' })).toBeVisible();
  await page.getByRole('button', { name: 'Use this folder' }).click();
  await page.getByRole('button', { name: 'Save and count' }).click();
  await expect(page.getByTestId('sound')).toHaveText('77');
});

test('the keys travel from finding to finding, and the chosen one shows its evidence', async ({ page }) => {
  await page.goto('/shots/1/tally');
  const playhead = page.getByRole('slider', { name: 'Playhead' });
  await expect(page.getByRole('button', { name: 'Copy path' })).toBeVisible();
  for (const frame of ['1005', '1010', '1020']) {
    await page.keyboard.press(']');
    await expect(playhead).toHaveAttribute('aria-valuenow', frame);
  }
  const docket = page.getByRole('complementary', { name: 'Docket' });
  await expect(docket.getByText('should be depth/orr_090_depth.1020.png')).toBeVisible();
  await expect(docket.getByText('It sorts elsewhere')).toBeVisible();
  await page.keyboard.press('[');
  await expect(playhead).toHaveAttribute('aria-valuenow', '1010');
});

test('the docket is narrowed by family, pass and severity', async ({ page }) => {
  await page.goto('/shots/1/tally');
  const docket = page.getByRole('complementary', { name: 'Docket' });
  await docket.getByLabel('Family').selectOption('names');
  await expect(docket.getByText('Wrong name')).toBeVisible();
  await expect(docket.getByText('Frames missing')).toBeHidden();
  await docket.getByLabel('Pass').selectOption('beauty');
  await expect(docket.getByText(/None of the \d+ findings is like that/)).toBeVisible();
  await docket.getByRole('button', { name: 'Show all findings' }).click();
  await expect(docket.getByText('Frames missing')).toBeVisible();
});

test('the ribbon is zoomed, lanes are put away, and the pointer is told what it is over', async ({ page }) => {
  await page.goto('/shots/1/tally');
  const zoomOut = page.getByRole('button', { name: 'Show more frames' });
  await expect(zoomOut).toBeDisabled();
  await page.getByRole('button', { name: 'Show fewer frames' }).click();
  await expect(zoomOut).toBeEnabled();
  await page.getByRole('button', { name: 'Show all frames' }).click();
  await expect(zoomOut).toBeDisabled();
  await page.getByRole('button', { name: 'Lanes' }).click();
  await page.getByRole('menuitemcheckbox', { name: 'depth' }).click();
  await page.keyboard.press('Escape');
  const passes = page.getByRole('list', { name: 'Passes' });
  await expect(passes.getByText('beauty')).toBeVisible();
  await expect(passes.getByText('depth')).toBeHidden();
  await expect(passes.getByText('file size')).toBeVisible();
  const ribbon = page.getByRole('slider', { name: 'Playhead' }).locator('canvas');
  const box = (await ribbon.boundingBox())!;
  await ribbon.hover({ position: { x: (box.width * 0.5) / 40, y: 30 } });
  await expect(page.getByRole('tooltip').getByText(beauty(1001))).toBeVisible();
});

test('the files are a table: sorted, narrowed, and taken along as CSV', async ({ page, request }) => {
  await page.goto('/shots/1/tally');
  await page.getByRole('tab', { name: 'Files' }).click();
  const table = page.getByRole('table', { name: 'Files' });
  const howMany = page.getByRole('tabpanel', { name: 'Files' }).getByRole('status');
  await expect(howMany).toHaveText('79 files');
  await table.getByRole('columnheader', { name: 'Size' }).getByRole('button').click();
  await table.getByRole('columnheader', { name: 'Size' }).getByRole('button').click();
  await expect(table.getByRole('row').nth(1)).toContainText('orr_090_beauty.1010.png');
  await page.getByRole('checkbox', { name: 'Only with trouble' }).check();
  await expect(howMany).toHaveText('2 files');
  await table.getByRole('button', { name: 'orr_090_Depth_1020.png' }).click();
  await expect(page.getByRole('slider', { name: 'Playhead' })).toHaveAttribute('aria-valuenow', '1020');
  const link = await page.getByRole('link', { name: 'CSV' }).getAttribute('href');
  const lines = (await (await request.get(link!)).text()).trim().split('\r\n');
  expect(lines[0]).toBe('file,pass,frame,state,bytes,written,kind,machine,samples');
  expect(lines.slice(1).map((line) => line.split(',').slice(0, 4).join(' '))).toEqual([
    'beauty/orr_090_beauty.1010.png beauty 1010 broken',
    'depth/orr_090_Depth_1020.png depth 1020 wrong',
  ]);
  for (const query of ['sort=colour', 'count=100000', 'from=-1', 'only=maybe']) expect((await request.get(`/shots/1/rows?${query}`)).status()).toBe(400);
});

test('a count says what changed since the one before, and earlier counts are listed', async ({ page, application }) => {
  const folder = path.join(application.shots, 'orr_090');
  copyFileSync(path.join(folder, beauty(1004)), path.join(folder, beauty(1005)));
  utimesSync(path.join(folder, beauty(1007)), new Date(), new Date());
  rmSync(path.join(folder, depth(1030)));
  await page.goto('/shots/1/tally');
  await page.getByRole('button', { name: 'Count again' }).click();
  await expect(page.getByText('2 opened')).toBeVisible();
  await page.getByRole('tab', { name: 'What changed' }).click();
  for (const [kind, file] of [
    ['Arrived', beauty(1005)],
    ['Replaced', beauty(1007)],
    ['Vanished', depth(1030)],
  ]) {
    await expect(
      page
        .locator('section')
        .filter({ has: page.getByRole('heading', { name: kind }) })
        .getByText(file),
    ).toBeVisible();
  }
  await page.getByRole('button', { name: 'Count again' }).click();
  await expect(page.getByText('none changed')).toBeVisible();
  await page.getByRole('tab', { name: 'Earlier counts' }).click();
  const rows = page.getByRole('tabpanel').getByRole('row');
  await expect(rows).toHaveCount(4);
  await expect(rows.nth(1)).toContainText('nothing');
  await expect(rows.nth(2)).toContainText('1 arrived, 1 replaced, 1 vanished');
  await expect(rows.nth(3)).toContainText('first count');
});
