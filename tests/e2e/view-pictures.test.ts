import { mkdirSync, writeFileSync } from 'node:fs';
import path from 'node:path';
import { encodeExr, encodePng, seeColour, type Look } from '@mint-tally/core';
import type { Database } from '@mint-tally/store';
import sharp from 'sharp';
import { expect, test } from './application.ts';
import { askForCount, makeShot, untilQuiet } from './asking.ts';
import { asHalf, beauty, canvasOf, light, makeKnownShots, middle, openView, panelOf, tools } from './known-shots.ts';

test.use({ instance: 'pictures' });
test.describe.configure({ mode: 'serial' });

let database: Database;
test.beforeAll(async ({ application, request }) => {
  database = await makeKnownShots(request, application);
});
test.afterAll(() => database.close());

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
