import { mkdirSync, readFileSync, writeFileSync } from 'node:fs';
import path from 'node:path';
import { encodeExr, encodePng, readCube, seeColour, type Look } from '@mint-tally/core';
import type { Database } from '@mint-tally/store';
import sharp from 'sharp';
import { expect, test } from './application.ts';
import { askForCount, makeShot, untilQuiet } from './asking.ts';
import { asHalf, beauty, canvasOf, light, makeKnownShots, memory, middle, openView, panelOf, tools } from './known-shots.ts';

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

test('another pass is seen as suits it, and its own channel is probed', async ({ page }) => {
  await openView(page);
  await page.keyboard.press('ArrowDown');
  await expect(panelOf(page).getByText('float')).toBeVisible();
  await page.keyboard.press('2');
  const { x } = await middle(page);
  const value = Number(await panelOf(page).locator('dl').first().locator('dd').first().innerText());
  expect(value).toBeCloseTo(Math.fround(2 + x / 7 + 1.001), 6);
});

test('two frames are compared: what differs, on either side of a line, the other one alone', async ({ page }) => {
  await openView(page);
  await page.keyboard.press('2');
  const plainly: Look = { exposure: 0, gamma: 1, transform: 'srgb' };
  const ofFrame = (x: number, y: number, frame: number) => [0, 1, 2].map((channel) => asHalf(light(channel, x, y, frame))) as [number, number, number];
  const expectColour = (colour: number[], wanted: readonly [number, number, number]) =>
    seeColour(wanted, plainly).forEach((value, i) => expect(Math.abs(colour[i]! - value * 255)).toBeLessThanOrEqual(1));
  await page.keyboard.press('d');
  await expect(page.getByText('against 1002, difference x 8')).toBeVisible();
  const difference = await middle(page);
  const [one, next] = [1001, 1002].map((frame) => ofFrame(difference.x, difference.y, frame));
  expectColour(difference.colour, one!.map((value, i) => Math.abs(value - next![i]!) * 8) as [number, number, number]);
  // Right of the line, where the pointer stands, is the other one; turned round, this one.
  await page.keyboard.press('s');
  const right = await middle(page);
  expectColour(right.colour, ofFrame(right.x, right.y, 1002));
  await page.getByLabel('Angle').fill('180');
  const turned = await middle(page);
  expectColour(turned.colour, ofFrame(turned.x, turned.y, 1001));
  await page.locator('body').click({ position: { x: 5, y: 5 } });
  await page.keyboard.press('x');
  const other = await middle(page);
  expectColour(other.colour, ofFrame(other.x, other.y, 1002));
  await page.keyboard.press('x');
  const alone = await middle(page);
  expectColour(alone.colour, ofFrame(alone.x, alone.y, 1001));
  // Beside each other, with the same point in the middle of each half.
  await page.getByLabel('Compare with').selectOption({ label: 'pass depth' });
  await page.getByRole('button', { name: 'beside' }).click();
  await expect(page.getByText('against depth')).toBeVisible();
  await page.getByLabel('Compare with').selectOption({ label: 'the frame before' });
  await expect(page.getByText('Nothing to compare with: There is no frame 1 back.')).toBeVisible();
});

test('another pass is seen through the alpha', async ({ page }) => {
  await openView(page);
  await page.keyboard.press('2');
  for (let i = 0; i < 9; i++) await page.keyboard.press('ArrowRight');
  for (let i = 0; i < 8; i++) await page.keyboard.press('Shift+e');
  await panelOf(page).getByLabel('or a pass').selectOption('depth');
  await expect(page.getByText('against depth')).toBeVisible();
  const { x, y, colour } = await middle(page);
  const behind = Math.fround(2 + x / 7 + 1.01) * 0.5;
  const wanted = [0, 1, 2].map((channel) => asHalf(light(channel, x, y, 1010)) + behind) as [number, number, number];
  seeColour(wanted, { exposure: -4, gamma: 1, transform: 'srgb' }).forEach((value, i) => expect(Math.abs(colour[i]! - value * 255)).toBeLessThanOrEqual(1));
  await panelOf(page).getByLabel('or a pass').selectOption('none');
  await expect(page.getByText('against depth')).toBeHidden();
});

test('the picture comes back when the graphics card has lost its memory', async ({ page }) => {
  await openView(page);
  await page.keyboard.press('2');
  const before = (await middle(page)).colour;
  await canvasOf(page).evaluate(async (canvas: HTMLCanvasElement) => {
    const extension = canvas.getContext('webgl2')!.getExtension('WEBGL_lose_context')!;
    const back = new Promise((resolve) => canvas.addEventListener('webglcontextrestored', resolve));
    extension.loseContext();
    await new Promise((resolve) => setTimeout(resolve, 50));
    extension.restoreContext();
    await back;
  });
  await expect.poll(async () => (await middle(page)).colour).toEqual(before);
});

test('without WebGL 2 stills are drawn all the same, and it is said', async ({ page }) => {
  await page.addInitScript(() => {
    const { getContext } = HTMLCanvasElement.prototype;
    HTMLCanvasElement.prototype.getContext = function (this: HTMLCanvasElement, kind: string, ...more: unknown[]) {
      return kind === 'webgl2' ? null : (getContext as (...all: unknown[]) => unknown).call(this, kind, ...more);
    } as typeof getContext;
  });
  await openView(page);
  await expect(page.getByText('This browser has no WebGL 2.')).toBeVisible();
  await page.keyboard.press('2');
  const { x, y, colour } = await middle(page);
  const own = [0, 1, 2].map((channel) => asHalf(light(channel, x, y, 1001))) as [number, number, number];
  seeColour(own, { exposure: 0, gamma: 1, transform: 'srgb' }).forEach((wanted, i) => expect(Math.abs(colour[i]! - wanted * 255)).toBeLessThanOrEqual(1));
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

test('a frame that arrives while somebody looks appears by itself, and one that is replaced is seen as it is now', async ({ page, request, application }) => {
  await openView(page);
  await page.keyboard.press('2');
  for (let i = 0; i < 4; i++) await page.keyboard.press('ArrowRight');
  await expect(page.locator('main').getByText('missing', { exact: true })).toBeVisible();
  const folder = path.join(application.shots, 'orr_010/beauty');
  writeFileSync(path.join(folder, 'beauty.1005.exr'), beauty(1005));
  await askForCount(request, application, 1);
  await expect(page.getByText('the file’s own pixels')).toBeVisible();
  const expectFrame = async (frame: number) => {
    await expect
      .poll(async () => {
        await middle(page);
        return Number(await panelOf(page).locator('dl').first().locator('dd').first().innerText());
      })
      .toBeCloseTo(await valueOf(frame), 4);
  };
  const valueOf = async (frame: number) => {
    const { x, y } = await middle(page);
    return Number(asHalf(light(0, x, y, frame)).toPrecision(5));
  };
  await expectFrame(1005);
  // Other light under the same name.
  writeFileSync(path.join(folder, 'beauty.1005.exr'), beauty(1105));
  await askForCount(request, application, 1);
  await expectFrame(1105);
});

test('a pixel alone, another size in the middle, and a picture wider than the card takes are shown all the same', async ({ page, request, application }) => {
  const folder = path.join(application.shots, 'orr_040');
  mkdirSync(folder);
  const sizes = [
    [64, 36],
    [1, 1],
    [16_384, 16],
  ] as const;
  sizes.forEach(([width, height], i) => {
    // The right half of the wide one is another colour, so that the tiles that it lies in cannot be taken for each other.
    const isRight = (at: number) => width > 1000 && Math.floor(at / 3) % width >= width / 2;
    const data = Uint8Array.from({ length: width * height * 3 }, (_, at) => (isRight(at) ? [10, 90, 170] : [200, 120, 40])[at % 3]!);
    writeFileSync(path.join(folder, `beauty.100${i + 1}.png`), encodePng({ width, height, samplesPerPixel: 3, data }, tools));
  });
  // Depth as floats of which some are no numbers: nothing of it is red, green or blue.
  const window = [0, 0, 3, 0] as const;
  const data = Float32Array.of(1, Infinity, NaN, -Infinity);
  writeFileSync(
    path.join(folder, 'depth.1001.exr'),
    encodeExr(
      { dataWindow: window, displayWindow: window, pixelAspect: 1, compression: 'zip', channels: [{ name: 'Z', type: 'float', data }], metadata: {} },
      tools,
    ),
  );
  const shot = await makeShot(request, application, 'orr_040', {
    shot: 'orr_040',
    range: '1001-1003',
    passes: [
      { name: 'beauty', pattern: 'beauty.####.png' },
      { name: 'depth', pattern: 'depth.####.exr', range: '1001' },
    ],
  });
  await askForCount(request, application, shot);
  await untilQuiet(database);
  await page.goto(`/shots/${shot}/view`);
  const viewer = page.locator('canvas[aria-label^="orr_040"]');
  const middleColour = async () => {
    const box = (await viewer.boundingBox())!;
    // Beside the middle, where the values of the only pixel stand.
    const clip = { x: Math.floor(box.x + box.width / 2) + 60, y: Math.floor(box.y + box.height / 2), width: 1, height: 1 };
    return [
      ...(await sharp(await page.screenshot({ clip }))
        .removeAlpha()
        .raw()
        .toBuffer()),
    ];
  };
  for (const [width, height] of sizes) {
    await expect(panelOf(page).getByText(`${width} x ${height}`)).toBeVisible();
    // Fitted, the widest would be a pixel high.
    if (width > 1000) await page.keyboard.press('1');
    await expect.poll(middleColour).toEqual(width > 1000 ? [10, 90, 170] : [200, 120, 40]);
    if (width < 1000) await page.keyboard.press('ArrowRight');
  }
  // All that is looked at in others is looked at in this one, in the file's own pixels.
  const channels = page.getByRole('group', { name: 'What is seen' }).getByRole('group', { name: 'Channel' });
  await channels.getByRole('button', { name: 'G', exact: true }).click();
  await expect.poll(middleColour).toEqual([90, 90, 90]);
  await channels.getByRole('button', { name: 'RGB', exact: true }).click();
  await page.keyboard.press('ArrowLeft');
  await page.keyboard.press('ArrowRight');
  await expect.poll(middleColour).toEqual([10, 90, 170]);
  await expect(page.getByText('the file’s own pixels')).toBeVisible();
  await page.keyboard.press('Home');
  await page.keyboard.press('ArrowDown');
  await expect(panelOf(page).getByText('4 x 1', { exact: true })).toBeVisible();
  await panelOf(page).getByLabel('across').fill('1');
  await panelOf(page).getByLabel('down').fill('0');
  await expect(panelOf(page).getByText('Infinity', { exact: true })).toBeVisible();
});
