import { mkdirSync, writeFileSync } from 'node:fs';
import path from 'node:path';
import type { Database } from '@mint-tally/store';
import { expect, test } from './application.ts';
import { askForCount, makeShot, untilQuiet } from './asking.ts';
import { beauty, makeKnownShots } from './known-shots.ts';

test.use({ instance: 'assay' });
test.describe.configure({ mode: 'serial' });

let database: Database;
test.beforeAll(async ({ application, request }) => {
  database = await makeKnownShots(request, application);
});
test.afterAll(() => database.close());

test('a shot is measured, its gates close, and a frame that is replaced opens them again', async ({ page, request, application }) => {
  await page.goto('/shots/1/assay');
  await expect(page.getByText('Nothing has been measured yet.')).toBeVisible();
  await page.getByRole('button', { name: 'Measure', exact: true }).click();
  await expect(page.getByRole('button', { name: 'Measure again' })).toBeVisible();
  // 1005 is missing, and 1008 cannot be read.
  await expect(page.getByRole('status').filter({ hasText: '10 frames measured' })).toBeVisible();
  const row = page.getByRole('table', { name: 'noise of each pass' }).getByRole('row', { name: /^beauty/ });
  await expect(row).toContainText('by one frame, an upper bound');
  await page.getByRole('button', { name: 'luminance' }).click();
  const lit = page.getByRole('table', { name: 'luminance of each pass' }).getByRole('row', { name: /^beauty/ });
  // Light rises with every frame: the last is the brightest.
  await lit.getByRole('button', { name: '1012' }).click();
  await expect(page.getByRole('slider', { name: 'Playhead' })).toHaveAttribute('aria-valuenow', '1012');
  await expect(page.getByRole('img', { name: 'luminance over the frames, a line for each pass' })).toBeVisible();
  await page.goto('/shots/1/handoff');
  for (const gate of ['passes', 'noise']) await expect(page.locator(`tr[data-gate="${gate}"]`)).toHaveAttribute('data-state', 'closed');

  writeFileSync(path.join(application.shots, 'orr_010/beauty/beauty.1003.exr'), beauty(1333));
  await askForCount(request, application, 1);
  await untilQuiet(database);
  await page.reload();
  for (const gate of ['passes', 'noise']) await expect(page.locator(`tr[data-gate="${gate}"]`)).toHaveAttribute('data-state', 'unmeasured');
  await page.goto('/shots/1/assay');
  await expect(page.getByText('These figures are of other frames, or of another brief: measure again.')).toBeVisible();
  // Far brighter than the frames beside it: the light flickers, and the docket says so.
  await page.getByRole('button', { name: 'Measure', exact: true }).click();
  await expect(page.getByRole('button', { name: 'Measure again' })).toBeVisible();
  await expect(page.getByText('Brightness flickers')).toBeVisible();

  // Put right on the disk, and measured at once: it is counted along the way, and both are of the same frames.
  writeFileSync(path.join(application.shots, 'orr_010/beauty/beauty.1003.exr'), beauty(1003));
  await page.getByRole('button', { name: 'Measure again' }).click();
  await expect(page.getByText('Brightness flickers')).toBeHidden();
  await expect(page.getByRole('status').filter({ hasText: '10 frames measured' })).toBeVisible();
  await page.goto('/shots/1/handoff');
  for (const gate of ['passes', 'noise']) await expect(page.locator(`tr[data-gate="${gate}"]`)).toHaveAttribute('data-state', 'closed');
});

test('the noise is seen over the picture, here and in the viewer, and a region restricts every figure to it', async ({ page }) => {
  await page.goto('/shots/1/assay');
  const where = page.getByRole('region', { name: 'Where the noise is' });
  await expect(where.getByRole('img', { name: 'beauty frame 1001' })).toBeVisible();
  await expect(where.locator('svg image')).toHaveAttribute('href', /^data:image\/png/);
  await expect(where.getByText('typical tile')).toBeVisible();
  const table = page.getByRole('table', { name: 'luminance of each pass' });
  await page.getByRole('button', { name: 'luminance', exact: true }).click();
  const most = async () =>
    Number(
      await table
        .getByRole('row', { name: /^beauty/ })
        .getByRole('cell')
        .nth(3)
        .innerText(),
    );
  const ofAll = await most();
  // By numbers: light rises to the right and downwards, so the last tile is brighter than the whole.
  await where.getByLabel('left').fill('48');
  await where.getByLabel('left').press('Tab');
  await expect(page.getByRole('status').filter({ hasText: 'of 64 x 36 pixels at 48, 0' })).toBeVisible();
  await expect.poll(most).toBeGreaterThan(ofAll);
  // By a drag: the upper left is darker.
  const box = (await where.getByRole('img').boundingBox())!;
  await page.mouse.move(box.x + 2, box.y + 2);
  await page.mouse.down();
  await page.mouse.move(box.x + box.width / 4, box.y + box.height / 3, { steps: 4 });
  await page.mouse.up();
  await expect.poll(most).toBeLessThan(ofAll);
  await page.getByRole('button', { name: 'render time' }).click();
  await expect(page.getByText('of the whole picture: not known of a region')).toBeVisible();
  // Whoever looks at fireflies sees where they are.
  await page.getByRole('group', { name: 'Which figure' }).getByRole('button', { name: 'fireflies' }).click();
  await expect(page.getByText('of the whole picture: not known of a region')).toBeHidden();
  await expect(where.getByRole('button', { name: 'fireflies', exact: true })).toHaveAttribute('aria-pressed', 'true');
  await expect(where.getByText('No fireflies in this frame.')).toBeVisible();
  await where.getByRole('button', { name: 'Whole picture' }).click();
  await page.getByRole('button', { name: 'luminance', exact: true }).click();
  await expect.poll(most).toBe(ofAll);
  // Two figures against each other, and back.
  await page.getByLabel('Drawn against').selectOption({ label: 'file size' });
  await expect(page.getByRole('img', { name: 'luminance over file size, a point for each frame' })).toBeVisible();
  await page.getByLabel('Drawn against').selectOption({ label: 'the frames' });
  await expect(page.getByRole('img', { name: 'luminance over the frames, a line for each pass' })).toBeVisible();

  // The same on one page, for whoever has a minute.
  await page.getByRole('link', { name: 'Report' }).click();
  await expect(page.getByRole('table', { name: 'Noise of each pass' }).getByRole('row', { name: /^beauty/ })).toBeVisible();
  await expect(page.getByText('depth is there and in step')).toBeVisible();
  await expect(page.getByText('brings frames onto each other: not ordered')).toBeVisible();
  await page.getByRole('link', { name: 'Back to the assay' }).click();
  await expect(page.getByRole('button', { name: 'Measure again' })).toBeVisible();

  await page.goto('/shots/1/view');
  await expect(page.locator('canvas[aria-label^="orr_010"]')).toBeVisible();
  const over = page.locator('svg:has(#picture-of-noise) image');
  await page.keyboard.press('k');
  await expect(over).toHaveAttribute('href', /^data:image\/png/);
  await page.keyboard.press('k');
  await expect(over).toHaveCount(0);
});

test('a shot without a pass that could be measured says so', async ({ page }) => {
  await page.goto('/shots/2/assay');
  await page.getByRole('button', { name: 'Measure', exact: true }).click();
  await expect(page.getByText('The last measurement failed: The brief orders no pass of role beauty or light.')).toBeVisible();
});

test('fireflies are counted where they are, and marked there and in the viewer', async ({ page, request, application }) => {
  const folder = path.join(application.shots, 'orr_050');
  mkdirSync(folder, { recursive: true });
  for (let frame = 1001; frame <= 1003; frame++) writeFileSync(path.join(folder, `beauty.${frame}.exr`), beauty(frame, frame === 1002 ? [50, 20] : null));
  const passes = [{ name: 'beauty', role: 'beauty', pattern: 'beauty.####.exr' }];
  const shot = await makeShot(request, application, 'orr_050', { shot: 'orr_050', range: '1001-1003', fps: '24', passes });
  await page.goto(`/shots/${shot}/assay`);
  await page.getByRole('button', { name: 'Measure', exact: true }).click();
  await expect(page.getByRole('button', { name: 'Measure again' })).toBeVisible();
  await page.getByRole('group', { name: 'Which figure' }).getByRole('button', { name: 'fireflies' }).click();
  const where = page.getByRole('region', { name: 'Where the noise is' });
  await expect(where.getByText('No fireflies in this frame.')).toBeVisible();
  const row = page.getByRole('table', { name: 'fireflies of each pass' }).getByRole('row', { name: /^beauty/ });
  await row.getByRole('button', { name: '1002' }).click();
  await expect(where.getByText('1 firefly:')).toBeVisible();
  await expect(where.locator('[data-fireflies="1"] circle').first()).toHaveAttribute('cx', '50.5');
  await expect(where.locator('[data-fireflies="1"] circle').first()).toHaveAttribute('cy', '20.5');
  // A region has its own; elsewhere there is none.
  await where.getByRole('button', { name: '50, 20' }).click();
  await expect(page.getByRole('status').filter({ hasText: 'of 32 x 32 pixels at 34, 4' })).toBeVisible();
  await expect(row.getByRole('cell').nth(3)).toHaveText('1');
  await where.getByLabel('left').fill('0');
  await where.getByLabel('left').press('Tab');
  await expect(row.getByRole('cell').nth(3)).toHaveText('0');

  await page.goto(`/shots/${shot}/view`);
  await expect(page.locator('canvas[aria-label^="orr_050"]')).toBeVisible();
  await page.keyboard.press('k');
  await expect(page.locator('[data-fireflies="0"]')).toBeAttached();
  await page.getByRole('slider', { name: 'Playhead' }).focus();
  await page.keyboard.press('ArrowRight');
  await expect(page.locator('[data-fireflies="1"] circle')).toHaveCount(2);
});

test('where lights do not sum to the beauty is seen, and so is that they do', async ({ page, request, application }) => {
  const folder = path.join(application.shots, 'orr_030');
  for (const pass of ['beauty', 'lamp']) mkdirSync(path.join(folder, pass), { recursive: true });
  for (let frame = 1001; frame <= 1003; frame++) {
    writeFileSync(path.join(folder, `beauty/beauty.${frame}.exr`), beauty(frame));
    // A light alone; in 1002 it is that of an earlier frame, which was darker.
    writeFileSync(path.join(folder, `lamp/lamp.${frame}.exr`), beauty(frame === 1002 ? 950 : frame));
  }
  const shot = await makeShot(request, application, 'orr_030', {
    shot: 'orr_030',
    range: '1001-1003',
    fps: '24',
    passes: [
      { name: 'beauty', role: 'beauty', pattern: 'beauty/beauty.####.exr' },
      { name: 'lamp', role: 'light', pattern: 'lamp/lamp.####.exr' },
    ],
  });
  await askForCount(request, application, shot);
  await untilQuiet(database);
  await page.goto(`/shots/${shot}/assay`);
  await page.getByRole('button', { name: 'Measure', exact: true }).click();
  await expect(page.getByText('Lights do not sum to the beauty')).toBeVisible();
  const where = page.getByRole('region', { name: 'Where the noise is' });
  await where.getByRole('button', { name: 'lights' }).click();
  await expect(where.getByText('The lights sum to the beauty in every pixel.')).toBeVisible();
  await page.getByRole('slider', { name: 'Playhead' }).focus();
  await page.keyboard.press('ArrowRight');
  await expect(where.getByText(/They miss the beauty in \d+(\.\d+)? % of the pixels/)).toBeVisible();
  await expect(where.getByText('too little light')).toBeVisible();
  await expect(where.locator('svg image')).toHaveAttribute('href', /^data:image\/png/);
  // A shot that orders no lights has none to look at.
  await page.goto('/shots/1/assay');
  await expect(where.getByRole('button', { name: 'noise' })).toBeVisible();
  await expect(where.getByRole('button', { name: 'lights' })).toHaveCount(0);
  const refused = await request.get('/shots/1/assay/sum?frame=1001');
  expect(refused.status()).toBe(404);
  expect(await refused.text()).toContain('orders no lights');
});
