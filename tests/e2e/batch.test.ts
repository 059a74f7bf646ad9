import { existsSync, mkdirSync, readdirSync, statSync, utimesSync, writeFileSync } from 'node:fs';
import path from 'node:path';
import type { Page } from '@playwright/test';
import { pngBytes } from '../support/frames.ts';
import { expect, test } from './application.ts';

test.use({ instance: 'batch', writable: true });
test.describe.configure({ mode: 'serial' });

const split = (page: Page) => page.getByRole('region', { name: 'Split' });
const shares = (page: Page) => page.getByRole('table', { name: 'Shares' });
const bad = (page: Page) => page.getByRole('table', { name: 'Bad frames' });

/** Adds an argument to the command. */
async function addArgument(page: Page, argument: string): Promise<void> {
  await page.getByText('Command, an argument a line').click();
  const command = page.getByRole('textbox', { name: 'Command' });
  await command.fill(`${await command.inputValue()}\n${argument}`);
}

test('a shot without frames is written down, and its batch proposes all of them', async ({ page, application }) => {
  mkdirSync(path.join(application.shots, 'orr_050'));
  await page.goto('/shots/new');
  await page.getByRole('button', { name: 'orr_050' }).click();
  await page.getByRole('button', { name: 'Use this folder' }).click();
  await page.getByLabel('Frame range').fill('1001-1016');
  await page.getByLabel('Width').fill('48');
  await page.getByLabel('Height').fill('27');
  await page.getByLabel('Minimum samples', { exact: true }).fill('4');
  await page.getByRole('button', { name: 'Save and count' }).click();
  await page.getByRole('navigation', { name: 'Steps' }).getByRole('link', { name: /Batch/ }).click();
  await expect(page.getByText('16 of 16 ordered frames are not sound yet.')).toBeVisible();
  await expect(page.getByLabel('Frames', { exact: true })).toHaveValue('1001-1016');
  await expect(page.getByTestId('proof')).toContainText('16 to render, 16 given out; none twice, none left.');
});

test('frames are shared out by rule and by hand, with the keyboard too', async ({ page }) => {
  await page.goto('/shots/1/batch');
  await page.getByRole('combobox', { name: 'Shares' }).selectOption('even');
  await expect(shares(page).getByRole('row', { name: /clove/ })).toContainText('1013-1016');
  await page.getByRole('checkbox', { name: 'sheetbend' }).uncheck();
  await page.getByRole('checkbox', { name: 'clove' }).uncheck();
  await expect(shares(page).getByRole('row', { name: /reef/ })).toContainText('1009-1016');
  const border = split(page).getByRole('slider', { name: 'Border between bowline and reef' });
  await border.focus();
  await page.keyboard.press('ArrowRight');
  await page.keyboard.press('ArrowRight');
  await expect(shares(page).getByRole('row', { name: /bowline/ })).toContainText('1001-1010');
  await expect(page.getByRole('combobox', { name: 'Shares' })).toHaveValue('hand');
  const strip = (await border.boundingBox())!;
  await page.mouse.move(strip.x + 5, strip.y + 10);
  await page.mouse.down();
  await page.mouse.move(strip.x - 200, strip.y + 10, { steps: 5 });
  await page.mouse.up();
  await expect(shares(page).getByRole('row', { name: /bowline/ })).toContainText(/1001-100\d/);
  await expect(page.getByTestId('proof')).toContainText('16 given out; none twice, none left.');
  await page.getByRole('combobox', { name: 'Shares' }).selectOption('interleaved');
  await page.getByLabel('Frames at a time').fill('4');
  await expect(shares(page).getByRole('row', { name: /reef/ })).toContainText('1005-1008 1013-1016');
  await page.getByLabel('scouts first').check();
  await expect(shares(page).getByRole('row', { name: /bowline/ })).toContainText(/^bowline8.*1001 1012/);
  // The queue is put into another order with its buttons.
  await page.getByRole('button', { name: '1013-1016 earlier' }).click();
  await page.getByRole('button', { name: '1013-1016 earlier' }).click();
  await page.getByRole('button', { name: '1013-1016 earlier' }).click();
  await expect(page.getByLabel('as dragged')).toBeChecked();
  await expect(shares(page).getByRole('row', { name: /reef/ })).toContainText('1013-1016 1005-1008');
  await page.getByLabel('Frames', { exact: true }).fill('1001-');
  await expect(page.locator('[data-problem="range"]')).not.toBeEmpty();
  await expect(page.getByRole('button', { name: /^Render/ })).toBeDisabled();
});

test('a split is copied as text and saved as CSV', async ({ page, context }) => {
  await context.grantPermissions(['clipboard-read', 'clipboard-write']);
  await page.goto('/shots/1/batch');
  await page.getByRole('combobox', { name: 'Shares' }).selectOption('even');
  await page.getByRole('button', { name: 'Copy as text' }).click();
  expect(await page.evaluate(() => navigator.clipboard.readText())).toBe('bowline 1001-1004\nreef 1005-1008\nsheetbend 1009-1012\nclove 1013-1016\n');
  const [csv] = await Promise.all([page.waitForEvent('download'), page.getByRole('button', { name: 'CSV' }).click()]);
  expect(csv.suggestedFilename()).toBe('orr_050_split.csv');
});

test('people who start machines themselves get a split, and the folder is watched', async ({ page, application }) => {
  await page.goto('/shots/1/batch');
  await page.getByLabel('Rendered by').selectOption({ label: 'Rendered elsewhere: watch the folder' });
  await page.getByLabel('Machines that people start, for the split').fill('bowline reef');
  await expect(shares(page).getByRole('row', { name: /reef/ })).toContainText('1009-1016');
  await page.getByLabel('Frames', { exact: true }).fill('1015-1016');
  await page.getByRole('button', { name: 'Watch 2 frames' }).click();
  await expect(page.getByRole('heading', { name: 'Watching the folder' })).toBeVisible();
  const folder = path.join(application.shots, 'orr_050', 'beauty');
  mkdirSync(folder, { recursive: true });
  for (const frame of [1015, 1016]) writeFileSync(path.join(folder, `orr_050_beauty.${frame}.exr`), '');
  await expect(bad(page).getByRole('row', { name: /1016/ })).toContainText('reef');
  await expect(bad(page).getByRole('row', { name: /1016/ })).toContainText('Empty files');
  await expect(page.getByRole('button', { name: 'Next batch' })).toBeVisible();
});

test('frames arrive, faults are told while the batch goes on, and only what is not sound is rendered again', async ({ page, application }) => {
  await page.goto('/shots/1/batch');
  await addArgument(page, '--faults=bowline:cut-short:1002,reef:skip:1008');
  await page.getByRole('button', { name: 'Render 16 frames' }).click();
  await expect(page).toHaveTitle(/^\(\d+\/16\) orr_050/);
  await expect(page.getByRole('region', { name: 'Log' })).toContainText('frame 1001: 4 samples');
  await expect(page.getByTestId('batch-bad')).toHaveText('2');
  await expect(bad(page)).toContainText('Files cut short');
  await expect(bad(page).getByRole('row', { name: /1008/ })).toContainText('Frames missing');
  await page.getByRole('button', { name: 'Next batch' }).click();
  await expect(page.getByText('2 of 16 ordered frames are not sound yet.')).toBeVisible();
  await expect(page.getByLabel('Frames', { exact: true })).toHaveValue('1002,1008');
  const folder = path.join(application.shots, 'orr_050', 'beauty');
  const stamps = () => Object.fromEntries(readdirSync(folder).map((name) => [name, statSync(path.join(folder, name)).mtimeMs]));
  const before = stamps();
  await page.getByRole('button', { name: 'Render 2 frames' }).click();
  await expect(page.getByTestId('batch-sound')).toHaveText('2');
  await page.getByRole('button', { name: 'Next batch' }).click();
  await expect(page.getByText('Every ordered frame is there and sound')).toBeVisible();
  const after = stamps();
  expect(Object.keys(after).filter((name) => after[name] !== before[name])).toEqual(['orr_050_beauty.1002.exr', 'orr_050_beauty.1008.exr']);
  await page.getByRole('navigation', { name: 'Steps' }).getByRole('link', { name: /Tally/ }).click();
  await expect(page.getByTestId('sound')).toHaveText(/16/);
});

test('what is sound is written over only when somebody says so', async ({ page }) => {
  await page.goto('/shots/1/batch');
  await page.getByLabel('Frames', { exact: true }).fill('1003-1004');
  await expect(page.getByText('Write over what is there')).toBeVisible();
  await expect(page.getByRole('button', { name: 'Render 2 frames' })).toBeDisabled();
  const refused = await page.request.put('/shots/1/batch/control', {
    data: {
      service: 'stand-in farm',
      command: ['orrery'],
      shares: [{ machine: 'reef', frames: [1003] }],
      passes: ['beauty'],
      overwrite: false,
      settings: { priority: 0, badInRow: 3, stopBadMachine: true, chunk: 8 },
    },
    headers: { Origin: new URL(page.url()).origin },
  });
  expect(refused.status()).toBe(400);
  expect(((await refused.json()) as { message: string }).message).toContain('Frames 1003 of beauty are there');
});

test('a batch is seen from the other screens, paused, and stopped', async ({ page }) => {
  await page.goto('/shots/1/batch');
  await page.getByLabel('Frames', { exact: true }).fill('1001-1008');
  await page.getByLabel(/Write over what is there/).check();
  await addArgument(page, '--samples=1500');
  await page.getByRole('combobox', { name: 'Shares' }).selectOption('even');
  await page.getByRole('button', { name: 'Render 8 frames' }).click();
  await expect(page.locator('[data-machine="bowline"]')).toContainText(/frame 100\d/);
  // The other screens tell of it too.
  await page.getByRole('navigation', { name: 'Steps' }).getByRole('link', { name: /Tally/ }).click();
  await expect(page.getByRole('group', { name: 'Rendering' })).toBeVisible();
  await expect(page.getByRole('complementary', { name: 'Docket' })).toContainText('Frames still to come');
  await page.getByRole('navigation', { name: 'Steps' }).getByRole('link', { name: /Batch/ }).click();
  await page.getByRole('button', { name: 'Pause' }).click();
  await expect(page.getByTestId('time-left')).toHaveText('Paused');
  await page.getByRole('button', { name: 'Go on' }).click();
  await page.getByRole('button', { name: 'Stop now' }).click();
  await expect(page.getByTestId('time-left')).toContainText('stopped');
  await page.getByRole('button', { name: 'Next batch' }).click();
  await expect(page.getByText(/The last batch was stopped/)).toBeVisible();
});

test('three folders with overlap and gap become one sequence, and are taken back', async ({ page, application }) => {
  const shot = path.join(application.shots, 'orr_060');
  mkdirSync(shot);
  const name = (frame: number) => `orr_060_beauty.${frame}.png`;
  let secondsAgo = 3600;
  const night = (machine: string, frames: readonly number[], seed: (frame: number) => number) => {
    const folder = path.join(application.shots, 'night', machine);
    mkdirSync(folder, { recursive: true });
    for (const frame of frames) {
      const file = path.join(folder, name(frame));
      writeFileSync(file, pngBytes(seed(frame)));
      // One machine after the other: what is newer must not hang on a millisecond.
      secondsAgo -= 60;
      utimesSync(file, Date.now() / 1000 - secondsAgo, Date.now() / 1000 - secondsAgo);
    }
  };

  night('bowline', [1001, 1002, 1003, 1004], (frame) => frame);
  night('reef', [1004, 1005, 1006], (frame) => frame);
  night('clove', [1006, 1008], () => 3);
  await page.goto('/shots/new');
  await page.getByRole('button', { name: 'orr_060' }).click();
  await page.getByRole('button', { name: 'Use this folder' }).click();
  await page.getByLabel('Frame range').fill('1001-1008');
  await page.getByLabel('Name pattern of beauty').fill('beauty/orr_060_beauty.####.png');
  await page.getByRole('button', { name: 'Save and count' }).click();
  await page.getByRole('navigation', { name: 'Steps' }).getByRole('link', { name: /Batch/ }).click();
  await page.getByRole('link', { name: 'Merge folders…' }).click();
  for (const machine of ['bowline', 'reef', 'clove']) {
    await page.getByRole('button', { name: 'Add a folder…' }).click();
    const dialog = page.getByRole('dialog');
    await dialog.getByRole('button', { name: 'night' }).click();
    await dialog.getByRole('button', { name: machine }).click();
    await dialog.getByRole('button', { name: 'Use this folder' }).click();
  }
  await page.getByRole('button', { name: 'Preview' }).click();
  const from = page.getByRole('table', { name: 'What comes from where' });
  await expect(from.getByRole('row', { name: /bowline/ })).toContainText('beauty 1001-1004');
  await expect(page.getByRole('list', { name: 'What was found' })).toContainText('In none of the folders: beauty 1007');
  await expect(page.getByRole('list', { name: 'What was found' })).toContainText('taken once: beauty 1004');
  const different = page.getByRole('list', { name: 'Different bytes' });
  await expect(different.getByRole('listitem').filter({ hasText: '1006' })).toContainText('newer');
  await expect(different.getByRole('img')).toHaveCount(2);
  await expect
    .poll(() =>
      different
        .getByRole('img')
        .first()
        .evaluate((image: HTMLImageElement) => image.naturalWidth),
    )
    .toBeGreaterThan(0);
  await page.getByRole('button', { name: 'Take beauty 1006 from night/reef' }).click();
  await expect(different.getByRole('listitem').filter({ hasText: '1006' })).toContainText('chosen by hand');
  await page.getByRole('button', { name: 'Merge 7 files' }).click();
  await expect(page.getByRole('heading', { name: 'Merged: 7 files brought' })).toBeVisible();
  expect(readdirSync(path.join(shot, 'beauty')).sort()).toEqual([1001, 1002, 1003, 1004, 1005, 1006, 1008].map(name));
  await page.getByRole('navigation', { name: 'Steps' }).getByRole('link', { name: /Tally/ }).click();
  await expect(page.getByTestId('missing')).toContainText('1');
  await page.goto('/shots/2/batch/merge');
  await page.getByRole('button', { name: 'Take it back' }).click();
  await expect(page.getByRole('heading', { name: 'Taken back' })).toBeVisible();
  expect(existsSync(path.join(shot, 'beauty'))).toBe(false);
});
