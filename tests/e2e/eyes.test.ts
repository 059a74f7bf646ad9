import { writeFileSync } from 'node:fs';
import path from 'node:path';
import type { Database } from '@mint-tally/store';
import type { Page } from '@playwright/test';
import { expect, test } from './application.ts';
import { askForCount, untilQuiet } from './asking.ts';
import { asHalf, beauty, canvasOf, light, makeKnownShots, memory, middle, panelOf } from './known-shots.ts';

test.use({ instance: 'eyes' });
test.describe.configure({ mode: 'serial' });

let database: Database;
test.beforeAll(async ({ application, request }) => {
  database = await makeKnownShots(request, application);
});
test.afterAll(() => database.close());

test('a pixel is probed in every pass, a region summed up, and both by keys as well', async ({ page }) => {
  await page.goto('/shots/1/view');
  await expect(page.getByText('the file’s own pixels')).toBeVisible();
  const panel = panelOf(page);
  await panel.getByLabel('across').fill('10');
  await panel.getByLabel('down').fill('5');
  await expect(panel.getByRole('heading', { name: 'Pixel 10, 5, pinned' })).toBeVisible();
  // Depth is told from its own file, as a float in full.
  const wanted = Math.fround(2 + 10 / 7 + 1001 / 1000);
  await expect(panel.getByText(String(Number(wanted.toPrecision(9))))).toBeVisible();
  await expect(panel.locator('dd', { hasText: String(Number(asHalf(light(0, 10, 5, 1001)).toPrecision(5))) })).toBeVisible();
  await expect(panel.getByRole('img', { name: /^R from .* frames in memory/ })).toBeVisible();
  const box = (await canvasOf(page).boundingBox())!;
  await page.keyboard.press('Escape');
  await panel.getByRole('button', { name: 'Mark a region' }).click();
  await page.mouse.move(box.x + box.width / 2 - 60, box.y + box.height / 2 - 40);
  await page.mouse.down();
  await page.mouse.move(box.x + box.width / 2 + 60, box.y + box.height / 2 + 40, { steps: 4 });
  await page.mouse.up();
  for (const [side, value] of [
    ['left', 2],
    ['top', 3],
    ['wide', 4],
    ['high', 2],
  ] as const)
    await panel.getByLabel(side, { exact: true }).fill(String(value));
  const values = [3, 4].flatMap((y) => [2, 3, 4, 5].map((x) => asHalf(light(0, x, y, 1001))));
  const mean = values.reduce((sum, value) => sum + value, 0) / values.length;
  const row = panel.getByRole('row', { name: /^R / });
  for (const value of [Math.min(...values), mean, Math.max(...values)]) await expect(row).toContainText(String(Number(value.toPrecision(4))));
  await panel.getByLabel('Histogram and waveform').check();
  await expect(panel.getByRole('img', { name: /^Histogram of what is seen: black/ })).toBeVisible();
});

test('a note stands on its frame and in the docket until it is closed, and again when it is opened', async ({ page }) => {
  await page.goto('/shots/1/view');
  await expect(page.getByText('the file’s own pixels')).toBeVisible();
  await page.keyboard.press('Home');
  await page.keyboard.press('ArrowRight');
  await page.keyboard.press('j');
  const dialog = page.getByRole('dialog');
  await expect(dialog).toContainText('Note on beauty 1002');
  await dialog.getByRole('button', { name: 'Pin note' }).click();
  await expect(dialog.getByText('A note says something.')).toBeVisible();
  // Left without sending, nothing is pinned.
  await dialog.getByLabel('Note', { exact: true }).fill('nothing yet');
  await dialog.getByRole('button', { name: 'Cancel' }).click();
  await expect(dialog).toHaveCount(0);
  await page.keyboard.press('j');
  await dialog.getByLabel('Note', { exact: true }).fill('Crawls under the lamp');
  await dialog.getByLabel('Your name').fill('Ada');
  await dialog.getByRole('button', { name: 'Pin note' }).click();
  await expect(panelOf(page).getByText('Crawls under the lamp')).toBeVisible();
  expect((await database.rows('SELECT COUNT(*) AS count FROM notes'))[0]!.count).toBe(1);
  await page.goto('/shots/1/tally');
  const docket = page.getByRole('complementary', { name: 'Docket' });
  await expect(docket.getByText('Ada,')).toBeVisible();
  await docket.getByRole('button', { name: 'Close', exact: true }).click();
  await expect(docket.getByRole('region', { name: 'Notes' })).toHaveCount(0);
  await docket.getByText('Closed notes').click();
  await docket.getByRole('button', { name: 'Open again' }).click();
  await docket.getByRole('link', { name: 'Look' }).click();
  await expect(page.getByRole('group', { name: 'Play' })).toContainText('1002');
});

test('another folder inside the roots is compared with, aligned as chosen; nothing outside of them is', async ({ page, request, application }) => {
  await page.goto('/shots/1/view');
  await expect(page.getByText('the file’s own pixels')).toBeVisible();
  const panel = panelOf(page);
  await panel.getByLabel('Compare with').selectOption('choose');
  const dialog = page.getByRole('dialog');
  await dialog.getByRole('button', { name: 'orr_020' }).click();
  await dialog.getByRole('button', { name: 'Use this folder' }).click();
  await expect(panel.getByText('12 of 12 frames have a partner')).toBeVisible();
  await expect(page.getByText('against orr_020: beauty.####.exr')).toBeVisible();
  // The same light frame by frame; of other frames it lies apart.
  await page.keyboard.press('Escape');
  await panel.getByRole('button', { name: 'differs' }).click();
  await expect.poll(async () => (await middle(page)).colour.slice(0, 3)).toEqual([0, 0, 0]);
  await panel.getByRole('button', { name: 'offset' }).click();
  await panel.getByLabel('Frames on').fill('5');
  await expect.poll(async () => Math.min(...(await middle(page)).colour)).toBeGreaterThan(100);
  await panel.getByLabel('Frames on').fill('0');
  await expect.poll(async () => (await middle(page)).colour.slice(0, 3)).toEqual([0, 0, 0]);
  await panel.getByLabel('Frames on').fill('40');
  await expect(panel.getByText('8 of 12 frames have a partner')).toBeVisible();
  await page.keyboard.press('Escape');
  await page
    .locator('canvas')
    .first()
    .click({ position: { x: 20, y: 60 } });
  await page.keyboard.press('End');
  await expect(page.getByText('Nothing to compare with: beauty.####.exr has no file for frame 1052.')).toBeVisible();
  const ask = (query: Record<string, string>) => request.get(`${application.address}/shots/1/other?${new URLSearchParams(query).toString()}`);
  expect((await ask({ root: 'shots', folder: '../..' })).status()).toBe(403);
  expect((await ask({ root: 'nowhere', folder: '' })).status()).toBe(404);
  expect((await ask({ root: 'shots', folder: 'orr_020', sequence: 'gone.####.exr' })).status()).toBe(404);
});

test('the sheet leads into the viewer and back to the same place', async ({ page }) => {
  await page.goto('/shots/1/view');
  await page.getByRole('link', { name: 'Sheet' }).click();
  await expect(page.getByRole('link', { name: /^beauty 10/ })).toHaveCount(12);
  await page.getByRole('button', { name: 'findings' }).click();
  const broken = page.getByRole('link', { name: /^beauty 1008, broken/ });
  await broken.click();
  await expect(page.getByRole('group', { name: 'Play' })).toContainText('1008');
  await page.keyboard.press('u');
  await expect(broken).toHaveAttribute('aria-current', 'true');
  await page.getByRole('button', { name: 'passes' }).click();
  await expect(page.getByRole('link', { name: /1008/ })).toHaveCount(2);
});

test.describe('what has been watched', () => {
  const eyes = (page: Page) => page.getByRole('group', { name: 'Eyes' });
  // What the tests before have played.
  test.beforeAll(() => database.change('DELETE FROM sights'));

  test('is recorded at the ordered rate and at 100 %, closes the gate, and lacks just the frame that is replaced', async ({ page, request, application }) => {
    await page.goto('/shots/2/view');
    await expect(eyes(page)).toContainText('0 of 48 watched');
    await page.getByLabel('Rate', { exact: true }).selectOption('30');
    await expect(eyes(page)).toContainText('not recorded: another rate');
    await page.locator('canvas').first().click();
    await page.keyboard.press('l');
    // It loops until every frame has had its turn on the screen.
    await expect(eyes(page)).toContainText('All 48 frames watched');
    await expect(page.getByLabel('Rate', { exact: true })).toHaveValue('');
    await page.keyboard.press('p');
    await page.goto('/shots/2/handoff');
    const gate = page.locator('tr[data-gate="eyes"]');
    await expect(gate).toHaveAttribute('data-state', 'closed');
    await expect(gate).toContainText('beauty: all 48 frames watched, by');

    writeFileSync(path.join(application.shots, 'orr_020/beauty.1020.exr'), beauty(1333));
    await askForCount(request, application, 2);
    await untilQuiet(database);
    await page.reload();
    await expect(gate).toHaveAttribute('data-state', 'open');
    await expect(gate).toContainText('beauty: 47 of 48 frames watched');
    await gate.getByRole('link', { name: 'Watch' }).click();
    await expect(eyes(page)).toContainText('left 1020');
    await eyes(page).getByRole('button', { name: 'Play what is left' }).click();
    await expect(page.getByText('of 1012-1020')).toBeVisible();
    await expect(eyes(page)).toContainText('All 48 frames watched');
    await page.keyboard.press('p');
  });

  test('is kept apart from what was seen smaller, standing, or compared', async ({ page }) => {
    await page.goto('/shots/1/view');
    await expect(page.getByText('the file’s own pixels')).toBeVisible();
    const ways = async () =>
      (await database.rows("SELECT way, COUNT(*) AS count FROM sights WHERE shot_id = 1 AND pass = 'depth' GROUP BY way")).map((row) => [row.way, row.count]);
    await page.getByLabel('Pass', { exact: true }).selectOption('depth');
    await page.keyboard.press('Home');
    await expect.poll(ways).toEqual([['stepped', 1]]);
    await expect(memory(page)).toHaveText('12 of 12');
    // Compared, nothing is recorded, however long it plays.
    await page.keyboard.press('d');
    await page.keyboard.press('p');
    await page.waitForTimeout(1500);
    await page.keyboard.press('p');
    await page.keyboard.press('d');
    expect((await ways()).map(([way]) => way)).toEqual(['stepped']);
    await page.keyboard.press('1');
    await page.keyboard.press('p');
    await expect.poll(async () => (await ways()).map(([way]) => way)).toContain('full');
    await page.keyboard.press('p');
  });

  test('is refused where it names no frame of the shot, and where it cannot be read', async ({ request, application }) => {
    const send = (data: object) => request.post(`${application.address}/shots/1/sights`, { headers: { origin: application.address }, data });
    const sight = { frame: 1001, content: '0'.repeat(16), way: 'full', parts: 1 };
    expect(await (await send({ pass: 'beauty', person: 'Ada', sights: [sight] })).json()).toMatchObject({ noted: 0 });
    expect((await send({ pass: 'no such pass', person: '', sights: [] })).status()).toBe(404);
    expect((await send({ pass: 'beauty', person: '', sights: [{ ...sight, parts: -1 }] })).status()).toBe(400);
  });
});
