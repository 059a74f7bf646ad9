import { spawnSync } from 'node:child_process';
import { mkdirSync, readdirSync, readFileSync, rmSync, truncateSync, writeFileSync } from 'node:fs';
import path from 'node:path';
import { pngBytes, writeSequence } from '../support/frames.ts';
import { expect, test } from './application.ts';

test.use({ instance: 'path', ownDatabase: true });
test.describe.configure({ mode: 'serial' });

test('an empty project says what to do first', async ({ page }) => {
  await page.goto('/');
  await expect(page.getByRole('heading', { name: 'No shots yet' })).toBeVisible();
  await page.getByRole('main').getByRole('link', { name: 'New shot' }).click();
  await expect(page.getByRole('heading', { name: 'Which folder holds the frames?' })).toBeVisible();
});

test('a folder proposes its brief, a wrong entry is told at its field, and saving counts', async ({ page, application }) => {
  const folder = path.join(application.shots, 'film', 'orr_070');
  writeSequence(folder, 1001, 1012, (frame) => `beauty/orr_070_beauty.${frame}.png`);
  writeSequence(folder, 1001, 1012, (frame) => `matte/orr_070_matte.${frame}.png`);
  rmSync(path.join(folder, 'beauty/orr_070_beauty.1004.png'));
  rmSync(path.join(folder, 'beauty/orr_070_beauty.1005.png'));
  truncateSync(path.join(folder, 'matte/orr_070_matte.1009.png'), 100);

  await page.goto('/shots/new');
  await page.getByRole('button', { name: 'film' }).click();
  await page.getByRole('button', { name: 'orr_070' }).click();
  await expect(page.getByRole('button', { name: 'beauty' })).toBeVisible();
  await page.getByRole('button', { name: 'Use this folder' }).click();

  await expect(page.getByText(/Found 22 files, .* in 2 sequences/)).toBeVisible();
  await expect(page.getByRole('textbox', { name: 'Shot', exact: true })).toHaveValue('orr_070');
  await expect(page.getByLabel('Width')).toHaveValue('32');
  await expect(page.getByLabel('Name pattern of matte')).toHaveValue('matte/orr_070_matte.####.png');
  await expect(page.getByLabel('Depth of beauty')).toHaveValue('8');
  const range = page.getByLabel('Frame range');
  await expect(range).toHaveValue('1001-1012');

  await range.fill('1012-1001');
  await page.getByLabel('Name pattern of matte').fill('matte/orr_070_matte.png');
  await page.getByRole('button', { name: 'Save and count' }).click();
  await expect(page.locator('[data-problem="range"]')).toContainText('ends (1001) before it starts (1012)');
  await expect(page.locator('[data-problem="passes.1.pattern"]')).toContainText('no frame token');
  await expect(range).toHaveAttribute('aria-invalid', 'true');

  await range.fill('1001-1013');
  await expect(page.getByRole('textbox', { name: 'Timecode' })).toHaveValue('00:00:00:13');
  await page.getByLabel('Name pattern of matte').fill('matte/orr_070_matte.####.png');
  await page.getByRole('button', { name: 'Save and count' }).click();
  await expect(page).toHaveURL(/\/shots\/1\/tally$/);
  await expect(page.getByTestId('sound')).toHaveText('21');
  await expect(page.getByTestId('missing')).toContainText('4');
  await expect(page.getByTestId('broken')).toContainText('1');
});

test('a folder that is still opening cannot be used, and one that answers late changes nothing', async ({ page, application }) => {
  for (const name of ['quick', 'slow']) mkdirSync(path.join(application.shots, name), { recursive: true });
  await page.goto('/shots/new');
  const use = page.getByRole('button', { name: 'Use this folder' });
  await expect(use).toBeEnabled();
  let answer: () => void = () => undefined;
  const waiting = new Promise<void>((resolve) => (answer = resolve));
  await page.route(/api\/folders\?.*path=slow/, async (route) => {
    await waiting;
    await route.continue();
  });
  await page.getByRole('button', { name: 'slow' }).click();
  await expect(use).toBeDisabled();
  // Another is chosen meanwhile; the slow one comes when nobody waits for it any more.
  await page.getByRole('button', { name: 'quick' }).click();
  await expect(use).toBeEnabled();
  answer();
  await page.waitForTimeout(300);
  await expect(page.getByRole('navigation', { name: 'Where this is' })).toContainText('quick');
  await page.route(/api\/folders\?.*path=&|path=$/, (route) => route.abort());
  await page.getByRole('button', { name: 'one folder up' }).click();
  await expect(page.getByText('the server does not answer')).toBeVisible();
});

test('choosing a finding moves playhead and selection, and shows what is there', async ({ page }) => {
  await page.goto('/shots/1/tally');
  const docket = page.getByRole('complementary', { name: 'Docket' });
  await docket.getByRole('button', { name: /Files cut short/ }).click();
  await expect(page.getByRole('slider', { name: 'Playhead' })).toHaveAttribute('aria-valuenow', '1009');
  await expect(page.getByRole('slider', { name: 'Playhead' })).toHaveAttribute('aria-valuetext', /matte broken/);
  const panel = page.getByRole('region', { name: 'Frame under the playhead' });
  await expect(panel.getByText(/file ends after 100 bytes/).first()).toBeVisible();

  await docket
    .locator('[data-code="missing-frame"]')
    .getByRole('button', { name: /1004-1005/ })
    .click();
  await expect(page.getByText('Selection 1004-1005,1013').or(page.getByText(/Selection 1004-1013/))).toBeVisible();
  await docket.getByRole('button', { name: 'Copy range' }).click();
  expect(await page.evaluate(() => navigator.clipboard.readText())).toBe('1004-1005,1013');

  // A sound frame has a picture, and it is really one.
  await page.keyboard.press('Home');
  const picture = panel.getByRole('img', { name: /frame 1001/ });
  await expect(picture).toBeVisible();
  await expect.poll(() => picture.evaluate((image: HTMLImageElement) => image.naturalWidth)).toBe(32);
});

test('the missing and the broken frames can be copied as ranges', async ({ page }) => {
  await page.goto('/shots/1/tally');
  const copy = page.getByRole('button', { name: /^Copy the (missing|broken) frames as ranges$/ });
  await copy.first().click();
  expect(await page.evaluate(() => navigator.clipboard.readText())).toBe('beauty 1004-1005,1013\nmatte 1013');
  await copy.nth(1).click();
  await expect.poll(() => page.evaluate(() => navigator.clipboard.readText())).toBe('matte 1009');
});

test('the ribbon follows mouse and keys', async ({ page }) => {
  await page.goto('/shots/1/tally');
  const playhead = page.getByRole('slider', { name: 'Playhead' });
  const box = (await playhead.boundingBox())!;
  const at = (column: number) => ({ x: box.x + ((column + 0.5) * box.width) / 13, y: box.y + 36 });
  await page.mouse.click(at(6).x, at(6).y);
  await expect(playhead).toHaveAttribute('aria-valuenow', '1007');
  await page.mouse.move(at(2).x, at(2).y);
  await page.mouse.down();
  await page.mouse.move(at(5).x, at(5).y, { steps: 4 });
  await page.mouse.up();
  await expect(page.getByText('Selection 1003-1006')).toBeVisible();
  await page.keyboard.press('Escape');
  await expect(page.getByText('Selection')).toBeHidden();
  await page.keyboard.press('End');
  await expect(playhead).toHaveAttribute('aria-valuenow', '1013');
  await page.keyboard.press('b');
  await expect(playhead).toHaveAttribute('aria-valuenow', '1009');
  await page.keyboard.press('Shift+ArrowLeft');
  await page.keyboard.press('Shift+ArrowLeft');
  await expect(page.getByText('Selection 1007-1009')).toBeVisible();
  await page.keyboard.press('?');
  await expect(page.getByRole('dialog', { name: 'Keys' })).toBeVisible();
});

test('the folder is mended and counted again: only what changed is read, and the docket forgets it', async ({ page, application }) => {
  const folder = path.join(application.shots, 'film', 'orr_070');
  for (const frame of [1004, 1005, 1013]) writeFileSync(path.join(folder, `beauty/orr_070_beauty.${frame}.png`), pngBytes(frame));
  for (const frame of [1009, 1013]) writeFileSync(path.join(folder, `matte/orr_070_matte.${frame}.png`), pngBytes(frame + 5000));
  await page.goto('/shots/1/tally');
  await page.getByRole('button', { name: 'Count again' }).click();
  await expect(page.getByTestId('sound')).toHaveText('26');
  await expect(page.getByText(/5 opened/)).toBeVisible();
  await expect(page.getByText('Nothing is wrong')).toBeVisible();
  await page.getByRole('button', { name: 'Count again' }).click();
  await expect(page.getByText(/none changed/)).toBeVisible();
});

test('the gate says what is open, a person closes it with name and reason, and the package verifies', async ({ page, application }) => {
  await page.goto('/shots/1/handoff');
  await expect(page.getByRole('heading', { name: '3 gates still open' })).toBeVisible();
  await expect(page.getByRole('button', { name: 'Write package' })).toBeDisabled();
  await page.getByRole('button', { name: 'Sign off: passes, noise, eyes…' }).click();
  const dialog = page.getByRole('dialog');
  await dialog.getByRole('button', { name: 'Waive' }).click();
  await expect(dialog.getByText('A name is needed')).toBeVisible();
  await expect(dialog.getByText('A reason is needed')).toBeVisible();
  await dialog.getByLabel('Your name').fill('Ada Ferrow');
  await dialog.getByLabel('Why it is fine').fill('Watched twice on the big screen.');
  await dialog.getByRole('button', { name: 'Waive' }).click();
  await expect(page.getByRole('heading', { name: 'Ready to hand over' })).toBeVisible();
  await expect(page.locator('[data-gate="eyes"]')).toHaveAttribute('data-state', 'waived');

  await page.getByLabel('Into').selectOption('deliveries');
  await page.getByLabel('Folder').fill('../outside');
  await page.getByRole('button', { name: 'Write package' }).click();
  await expect(page.getByText('Use letters, digits')).toBeVisible();
  await page.getByLabel('Folder').fill('reel/orr_070_package_001');
  await page.getByRole('button', { name: 'Write package' }).click();
  await expect(page.getByRole('heading', { name: 'Handed over' })).toBeVisible();

  const bag = path.join(application.deliveries, 'reel', 'orr_070_package_001');
  expect(spawnSync('sha256sum', ['-c', 'manifest-sha256.txt'], { cwd: bag }).status).toBe(0);
  expect(spawnSync('sha256sum', ['-c', 'tagmanifest-sha256.txt'], { cwd: bag }).status).toBe(0);
  expect(readdirSync(path.join(bag, 'data', 'beauty'))).toHaveLength(13);
  expect(JSON.parse(readFileSync(path.join(bag, 'data', 'tally.json'), 'utf8')).waivers).toHaveLength(3);

  await page.goto('/');
  await expect(page.getByRole('row', { name: /orr_070/ })).toContainText('Handed over');
});

test('a waiver holds for what was seen, and is taken back', async ({ page, application }) => {
  const folder = path.join(application.shots, 'film', 'orr_070');
  rmSync(path.join(folder, 'beauty/orr_070_beauty.1002.png'));
  await page.goto('/shots/1/tally');
  await page.getByRole('button', { name: 'Count again' }).click();
  const docket = page.getByRole('complementary', { name: 'Docket' });
  await docket.getByRole('button', { name: /Frames missing/ }).click();
  await docket.getByRole('button', { name: 'Waive…' }).click();
  const dialog = page.getByRole('dialog');
  await expect(dialog.getByLabel('Your name')).toBeVisible();
  await dialog.getByLabel('Your name').fill('Ada Ferrow');
  await dialog.getByLabel('Why it is fine').fill('Cut in the edit.');
  await dialog.getByRole('button', { name: 'Waive' }).click();
  await expect(dialog.getByRole('alert')).toContainText('1 ordered frame of beauty has no file: 1002.');
  await expect(page.getByText('Ada Ferrow: Cut in the edit.')).toBeHidden();
  await dialog.getByRole('button', { name: 'Waive all the same' }).click();
  await expect(page.getByTestId('waived')).toContainText('1');
  await expect(docket.getByRole('region', { name: 'Waived' })).toBeVisible();
  // The frames are others than those that somebody watched: those gates are open again.
  await page.goto('/shots/1/handoff');
  await expect(page.locator('[data-gate="count"]')).toHaveAttribute('data-state', 'waived');
  await expect(page.locator('[data-gate="eyes"]')).toHaveAttribute('data-state', 'unmeasured');
  await page.goto('/shots/1/tally');
  await docket.getByRole('button', { name: /Frames missing/ }).click();
  await docket.getByRole('button', { name: 'Withdraw' }).click();
  await expect(docket.getByRole('region', { name: 'To render' })).toBeVisible();
});

test('a changed brief is counted against at once', async ({ page }) => {
  await page.goto('/shots/1/brief');
  await expect(page.getByRole('button', { name: 'Save and count again' })).toBeDisabled();
  await page.getByLabel('Frame range').fill('1001-1020');
  await page.getByRole('button', { name: 'Save and count again' }).click();
  await expect(page.getByText('Saved as version 2')).toBeVisible();
  await page.getByRole('navigation', { name: 'Steps' }).getByRole('link', { name: /Tally/ }).click();
  await expect(page.getByTestId('missing')).toContainText('15');
});

test('a long count shows progress, survives a reload, and can be stopped', async ({ page, application }) => {
  const folder = path.join(application.shots, 'long');
  mkdirSync(folder);
  // Large enough that the count takes many seconds on any machine.
  const bytes = pngBytes(7, 2600, 1500);
  for (let frame = 1; frame <= 400; frame++) writeFileSync(path.join(folder, `long.${String(frame).padStart(4, '0')}.png`), bytes);
  await page.goto('/shots/new');
  await page.getByRole('button', { name: 'long' }).click();
  await page.getByRole('button', { name: 'Use this folder' }).click();
  await page.getByRole('button', { name: 'Save and count' }).click();
  const main = page.getByRole('main');
  await expect(main.getByText(/Counting, [1-9]\d* of 400/)).toBeVisible();
  await page.reload();
  await expect(main.getByRole('progressbar')).toBeVisible();
  await main.getByRole('button', { name: /^Stop/ }).click();
  await expect(page.getByText('The last count was stopped')).toBeVisible();
  await expect(main.getByRole('progressbar')).toBeHidden();
});
