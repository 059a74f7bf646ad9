import { mkdirSync, readFileSync, writeFileSync } from 'node:fs';
import path from 'node:path';
import { readCube, seeColour, type Look } from '@mint-tally/core';
import type { Database } from '@mint-tally/store';
import { expect, test } from './application.ts';
import { askForCount, makeShot } from './asking.ts';
import { asHalf, beauty, light, makeKnownShots, memory, middle, openView, panelOf } from './known-shots.ts';

test.use({ instance: 'view' });
test.describe.configure({ mode: 'serial' });

let database: Database;
test.beforeAll(async ({ application, request }) => {
  database = await makeKnownShots(request, application);
});
test.afterAll(() => database.close());

test('the values under the pointer are those of the file, and the colours those of the core', async ({ page }) => {
  await openView(page);
  await page.keyboard.press('2');
  const expectSeen = async (look: Look, frame: number) => {
    const { x, y, colour } = await middle(page);
    const own = [0, 1, 2].map((channel) => asHalf(light(channel, x, y, frame))) as [number, number, number];
    const shown = await panelOf(page).locator('dl').first().locator('dd').allInnerTexts();
    expect(shown.slice(0, 3).map(Number)).toEqual(own.map((value) => Number(value.toPrecision(5))));
    seeColour(own, look).forEach((wanted, i) => expect(Math.abs(colour[i]! - wanted * 255)).toBeLessThanOrEqual(1));
  };
  const plainly: Look = { exposure: 0, gamma: 1, transform: 'srgb' };
  await expectSeen(plainly, 1001);
  await page.keyboard.press('e');
  await page.keyboard.press('e');
  await expectSeen({ ...plainly, exposure: 1 }, 1001);
  await page.keyboard.press('Shift+e');
  await page.keyboard.press('g');
  await expectSeen({ exposure: 0.5, gamma: 1.1, transform: 'srgb' }, 1001);
  for (const transform of ['rec709', 'linear', 'log'] as const) {
    await page.keyboard.press('v');
    await expectSeen({ exposure: 0.5, gamma: 1.1, transform }, 1001);
  }
  await page.keyboard.press('r');
  await page.keyboard.press('ArrowRight');
  await expectSeen(plainly, 1002);
});

test('a lookup table from a file is applied to what the view gives, and one that is none is told', async ({ page }) => {
  await page.goto('/shots/1/view');
  await expect(page.getByText('the file’s own pixels')).toBeVisible();
  await page.keyboard.press('2');
  const entries = Array.from({ length: 27 }, (_, i) => [(i % 3) / 2, (Math.floor(i / 3) % 3) / 2, Math.floor(i / 9) / 2] as const);
  // Red and blue change places, and green is squared, as far as three entries can.
  const cube = `LUT_3D_SIZE 3\n${entries.map(([r, g, b]) => `${b} ${g * g} ${r}`).join('\n')}\n`;
  const line = 'LUT_1D_SIZE 2\n1 1 1\n0 0 0\n';
  for (const [name, text] of [
    ['swap.cube', cube],
    ['negative.cube', line],
  ] as const) {
    await page.getByLabel('Lookup table', { exact: true }).setInputFiles({ name, mimeType: 'text/plain', buffer: Buffer.from(text) });
    await expect(page.getByRole('button', { name })).toBeVisible();
    const { x, y, colour } = await middle(page);
    const own = [0, 1, 2].map((channel) => asHalf(light(channel, x, y, 1001))) as [number, number, number];
    const wanted = seeColour(own, { exposure: 0, gamma: 1, transform: 'srgb', table: readCube(text, name) });
    wanted.forEach((value, i) => expect(Math.abs(colour[i]! - value * 255)).toBeLessThanOrEqual(1.5));
  }
  // The histogram is of what is seen: by this table all of it is white.
  await panelOf(page).getByLabel('Histogram and waveform').check();
  const allWhite = 'LUT_1D_SIZE 2\n1 1 1\n1 1 1\n';
  await page.getByLabel('Lookup table', { exact: true }).setInputFiles({ name: 'white.cube', mimeType: 'text/plain', buffer: Buffer.from(allWhite) });
  await expect(panelOf(page).getByRole('img', { name: 'Histogram of what is seen: black 0.0 %, white 100.0 %' })).toBeVisible();
  await page.getByLabel('Lookup table', { exact: true }).setInputFiles({ name: 'none.cube', mimeType: 'text/plain', buffer: Buffer.from('hello') });
  await expect(page.getByRole('alert')).toContainText('Line 1 of none.cube does not hold 3 numbers');
  await page.getByRole('button', { name: 'Without the lookup table' }).click();
  await expect(page.getByRole('button', { name: 'Table…' })).toBeVisible();
});

test('so large that there is room, the values stand in the pixels', async ({ page }) => {
  await openView(page);
  await page.keyboard.press('2');
  const { x, y } = await middle(page);
  await page.keyboard.press('z');
  const texts = page.locator('main svg text');
  await expect(texts.first()).toBeVisible();
  const wanted = [0, 1, 2].map((channel) => asHalf(light(channel, x, y, 1001)).toPrecision(3)).join('') + '1';
  await expect(texts.filter({ hasText: new RegExp(`^\\s*${wanted.replaceAll('.', '\\.')}\\s*$`) }).first()).toBeVisible();
  await page.keyboard.press('f');
  await expect(texts).toHaveCount(0);
});

test('a missing frame is shown as missing, a broken one says why, and holding says what it holds', async ({ page }) => {
  await openView(page);
  const viewer = page.locator('main');
  for (let i = 0; i < 4; i++) await page.keyboard.press('ArrowRight');
  await expect(viewer.getByText('1005', { exact: true }).first()).toBeVisible();
  await expect(viewer.getByText('missing', { exact: true })).toBeVisible();
  await page.getByLabel('hold over missing frames').check();
  await expect(viewer.getByText('held from 1004')).toBeVisible();
  await page.locator('body').click({ position: { x: 5, y: 5 } });
  for (let i = 0; i < 3; i++) await page.keyboard.press('ArrowRight');
  await expect(viewer.getByText(/The file ends after 900 bytes/)).toBeVisible();
});

test('a pass without files shows none, whichever pass was looked at before', async ({ page, request, application }) => {
  const folder = path.join(application.shots, 'orr_030');
  mkdirSync(folder);
  for (let frame = 1001; frame <= 1004; frame++) writeFileSync(path.join(folder, `beauty.${frame}.exr`), beauty(frame));
  const passes = [
    { name: 'beauty', role: 'beauty', pattern: 'beauty.####.exr' },
    { name: 'normal', role: 'normal', pattern: 'normal.####.exr' },
  ];
  const shot = await makeShot(request, application, 'orr_030', { shot: 'orr_030', range: '1001-1004', passes });
  await askForCount(request, application, shot);
  await page.goto(`/shots/${shot}/view`);
  await expect(memory(page)).toHaveText('4 of 4');
  await page.keyboard.press('ArrowDown');
  await expect(page.locator('main').getByText('missing', { exact: true })).toBeVisible();
  // What was on its way would have come by now.
  await page.waitForTimeout(500);
  await expect(memory(page)).toHaveText('0 of 4');
  await expect(page.getByText('the file’s own pixels')).toHaveCount(0);
  await page.keyboard.press('ArrowUp');
  await expect(memory(page)).toHaveText('4 of 4');
});

test('it plays and stops, a step stands where it was put, a rate on trial says how long it lasts', async ({ page }) => {
  await openView(page);
  await page.keyboard.press('p');
  await page.waitForTimeout(3000);
  await page.keyboard.press('p');
  const frame = page.getByRole('group', { name: 'Play', exact: true }).locator('.figure.font-bold').first();
  const stood = await frame.innerText();
  await page.waitForTimeout(300);
  expect(await frame.innerText()).toBe(stood);
  // A step is a person's: it stands where it was put.
  await page.keyboard.press('Home');
  await expect(frame).toHaveText('1001');
  await page.getByLabel('Rate').selectOption('30');
  await expect(page.getByText('on trial: 0.40 s, not 0.50 s')).toBeVisible();
  await page.locator('body').click({ position: { x: 5, y: 5 } });
  await page.keyboard.press('t');
  await expect(page.getByText('on trial')).toHaveCount(0);
  await expect(page.getByLabel('Rate', { exact: true })).toHaveValue('');
});

test('the sound plays in step and says how much longer it is; stopped is stopped', async ({ page }) => {
  await page.goto('/shots/2/view');
  await expect(page.getByText('sound on, 3 frames (0.13 s) longer than the picture')).toBeVisible();
  await expect(memory(page)).toHaveText('48 of 48');
  await page.keyboard.press('p');
  await expect(page.getByRole('button', { name: 'Stop', exact: true })).toBeVisible();
  await page.waitForTimeout(500);
  await page.keyboard.press('m');
  await expect(page.getByText('sound muted')).toBeVisible();
  await page.keyboard.press('p');
  await expect(page.getByRole('button', { name: 'Play', exact: true })).toBeVisible();
  // Wanted and given up at once: nothing begins afterwards.
  await page.keyboard.press('p');
  await page.keyboard.press('p');
  await page.keyboard.press('Home');
  await page.waitForTimeout(700);
  await expect(page.getByRole('slider', { name: 'Playhead' })).toHaveAttribute('aria-valuenow', '1001');
  await page.getByLabel('Rate').selectOption('25');
  await expect(page.getByText('sound muted')).toHaveCount(1);
});

test('only what was counted can be fetched', async ({ request, application }) => {
  const ask = (query: Record<string, string>) => request.get(`${application.address}/shots/1/picture?${new URLSearchParams(query).toString()}`);
  const file = path.join(application.shots, 'orr_010/beauty/beauty.1001.exr');
  const size = String(readFileSync(file).length);
  expect((await ask({ pass: 'beauty', path: 'beauty/beauty.1001.exr', size, modified: '1' })).status()).toBe(400);
  expect((await ask({ pass: 'beauty', path: '../config.json', size, modified: '1' })).status()).toBe(403);
  expect((await ask({ pass: 'nothing', path: 'beauty/beauty.1001.exr', size, modified: '1' })).status()).toBe(404);
  expect((await ask({ pass: 'beauty', path: 'beauty/beauty.1001.exr', size: 'many', modified: '1' })).status()).toBe(400);
});
