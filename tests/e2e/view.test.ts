import { mkdirSync, readFileSync, writeFileSync } from 'node:fs';
import path from 'node:path';
import zlib from 'node:zlib';
import { encodeExr, encodePng, floatToHalf, halfToFloat, readCube, seeColour, type Look } from '@mint-tally/core';
import type { Database } from '@mint-tally/store';
import type { Page } from '@playwright/test';
import sharp from 'sharp';
import { expect, test } from './application.ts';
import { askForCount, databaseOf, makeShot, untilQuiet } from './asking.ts';

test.use({ instance: 'view' });
test.describe.configure({ mode: 'serial' });

const [WIDTH, HEIGHT] = [64, 36];
const tools = { deflate: (data: Uint8Array) => zlib.deflateSync(data), crc32: (data: Uint8Array) => zlib.crc32(data) };
/** Light in each channel: rising across, down and with the frame, so that every pixel of every frame is its own; half of 1010 is seen through. */
const light = (channel: number, x: number, y: number, frame: number) =>
  channel === 3 ? (frame === 1010 ? 0.5 : 1) : 0.004 * (1 + x) * (channel === 0 ? 1 : 0.6) + 0.003 * y * (channel === 2 ? 1 : 0.5) + 0.01 * (frame - 1000);
const asHalf = (value: number) => halfToFloat(floatToHalf(value));

function beauty(frame: number): Uint8Array {
  const window = [0, 0, WIDTH - 1, HEIGHT - 1] as const;
  const plane = (c: number) => Uint16Array.from({ length: WIDTH * HEIGHT }, (_, i) => floatToHalf(light(c, i % WIDTH, Math.floor(i / WIDTH), frame)));
  const channels = ['R', 'G', 'B', 'A'].map((name, c) => ({ name, type: 'half' as const, data: plane(c) }));
  return encodeExr({ dataWindow: window, displayWindow: window, pixelAspect: 1, compression: 'zip', channels, metadata: {} }, tools);
}

function depth(frame: number): Uint8Array {
  const window = [0, 0, WIDTH - 1, HEIGHT - 1] as const;
  const data = Float32Array.from({ length: WIDTH * HEIGHT }, (_, i) => 2 + (i % WIDTH) / 7 + frame / 1000);
  return encodeExr(
    { dataWindow: window, displayWindow: window, pixelAspect: 1, compression: 'zip', channels: [{ name: 'Z', type: 'float', data }], metadata: {} },
    tools,
  );
}

/** A track of silence, 16 bits at 48 kHz. */
function wav(samples: number): Uint8Array {
  const bytes = Buffer.alloc(44 + 2 * samples);
  bytes.write('RIFF', 0, 'latin1');
  bytes.writeUInt32LE(36 + 2 * samples, 4);
  bytes.write('WAVEfmt ', 8, 'latin1');
  for (const [at, size, value] of [
    [16, 4, 16],
    [20, 2, 1],
    [22, 2, 1],
    [24, 4, 48_000],
    [28, 4, 96_000],
    [32, 2, 2],
    [34, 2, 16],
    [40, 4, 2 * samples],
  ] as const)
    bytes.writeUIntLE(value, at, size);
  bytes.write('data', 36, 'latin1');
  return bytes;
}

let database: Database;

test.beforeAll(async ({ application, request }) => {
  database = databaseOf(application);
  const folder = path.join(application.shots, 'orr_010');
  for (const pass of ['beauty', 'depth']) mkdirSync(path.join(folder, pass), { recursive: true });
  for (let frame = 1001; frame <= 1012; frame++) {
    // 1005 is missing, 1008 was cut short.
    if (frame !== 1005) writeFileSync(path.join(folder, `beauty/beauty.${frame}.exr`), frame === 1008 ? beauty(frame).subarray(0, 900) : beauty(frame));
    writeFileSync(path.join(folder, `depth/depth.${frame}.exr`), depth(frame));
  }
  const shot = await makeShot(request, application, 'orr_010', {
    shot: 'orr_010',
    range: '1001-1012',
    fps: '24',
    resolution: [WIDTH, HEIGHT],
    passes: [
      { name: 'beauty', role: 'beauty', pattern: 'beauty/beauty.####.exr', alpha: 'premultiplied' },
      { name: 'depth', role: 'depth', pattern: 'depth/depth.####.exr' },
    ],
  });
  expect(shot).toBe(1);
  const sounding = path.join(application.shots, 'orr_020');
  mkdirSync(sounding);
  for (let frame = 1001; frame <= 1048; frame++) writeFileSync(path.join(sounding, `beauty.${frame}.exr`), beauty(frame));
  // Three frames longer than the picture.
  writeFileSync(path.join(sounding, 'track.wav'), wav(51 * 2000));
  const second = await makeShot(request, application, 'orr_020', {
    shot: 'orr_020',
    range: '1001-1048',
    fps: '24',
    passes: [{ name: 'beauty', pattern: 'beauty.####.exr' }],
    sound: { file: 'track.wav', samples: 51 * 2000, sampleRate: 48_000 },
  });
  for (const one of [shot, second]) await askForCount(request, application, one);
  await untilQuiet(database);
});
test.afterAll(() => database.close());

const canvasOf = (page: Page) => page.locator('canvas[aria-label^="orr_010"]');
const panelOf = (page: Page) => page.getByRole('complementary', { name: 'What is looked at' });
const memory = (page: Page) => page.getByRole('group', { name: 'Play' }).getByText(/^\d+ of \d+$/);

async function open(page: Page): Promise<void> {
  await page.goto('/shots/1/view');
  await expect(page.getByText('the file’s own pixels')).toBeVisible();
  await expect(memory(page)).toHaveText('10 of 12');
}

/** The pixel of the picture that stands near the middle of the viewer at 200 %, and its colour on the screen. */
async function middle(page: Page): Promise<{ x: number; y: number; colour: number[] }> {
  const box = (await canvasOf(page).boundingBox())!;
  const [x, y] = [Math.floor(box.x + box.width / 2) + 41, Math.floor(box.y + box.height / 2) + 21];
  await page.mouse.move(x, y);
  const at = /Pixel (\d+), (\d+)/.exec(
    await panelOf(page)
      .getByRole('heading', { name: /^Pixel/ })
      .innerText(),
  )!;
  const shot = await page.screenshot({ clip: { x, y, width: 1, height: 1 } });
  const { data } = await sharp(shot).removeAlpha().raw().toBuffer({ resolveWithObject: true });
  return { x: Number(at[1]), y: Number(at[2]), colour: [...data] };
}

test('the values under the pointer are those of the file, and the colours those of the core', async ({ page }) => {
  await open(page);
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
  await page.getByLabel('Lookup table', { exact: true }).setInputFiles({ name: 'none.cube', mimeType: 'text/plain', buffer: Buffer.from('hello') });
  await expect(page.getByRole('alert')).toContainText('Line 1 of none.cube does not hold 3 numbers');
  await page.getByRole('button', { name: 'Without the lookup table' }).click();
  await expect(page.getByRole('button', { name: 'Table…' })).toBeVisible();
});

test('so large that there is room, the values stand in the pixels', async ({ page }) => {
  await open(page);
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
  await open(page);
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

test('it plays and stops, a step stands where it was put, a rate on trial says how long it lasts', async ({ page }) => {
  await open(page);
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
  await open(page);
  await page.keyboard.press('ArrowDown');
  await expect(panelOf(page).getByText('float')).toBeVisible();
  await page.keyboard.press('2');
  const { x } = await middle(page);
  const value = Number(await panelOf(page).locator('dl').first().locator('dd').first().innerText());
  expect(value).toBeCloseTo(Math.fround(2 + x / 7 + 1.001), 6);
});

test('two frames are compared: what differs, on either side of a line, the other one alone', async ({ page }) => {
  await open(page);
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
  await open(page);
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
  await open(page);
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
  await open(page);
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
  await open(page);
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
  await expect(page.getByText('against beauty.####.exr')).toBeVisible();
  await panel.getByRole('button', { name: 'offset' }).click();
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

test('a pixel alone, another size in the middle, and a picture wider than the card takes are shown all the same', async ({ page, request, application }) => {
  const folder = path.join(application.shots, 'orr_040');
  mkdirSync(folder);
  const sizes = [
    [64, 36],
    [1, 1],
    [16_384, 16],
  ] as const;
  sizes.forEach(([width, height], i) => {
    const data = Uint8Array.from({ length: width * height * 3 }, (_, at) => [200, 120, 40][at % 3]!);
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
    await expect.poll(middleColour).toEqual([200, 120, 40]);
    await page.keyboard.press('ArrowRight');
  }
  await page.keyboard.press('Home');
  await page.keyboard.press('ArrowDown');
  await expect(panelOf(page).getByText('4 x 1', { exact: true })).toBeVisible();
  await panelOf(page).getByLabel('across').fill('1');
  await panelOf(page).getByLabel('down').fill('0');
  await expect(panelOf(page).getByText('Infinity', { exact: true })).toBeVisible();
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
    await expect(eyes(page)).toContainText('All 48 frames watched', { timeout: 30_000 });
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
    await expect(eyes(page)).toContainText('All 48 frames watched', { timeout: 30_000 });
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
