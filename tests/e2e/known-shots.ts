import { mkdirSync, writeFileSync } from 'node:fs';
import path from 'node:path';
import zlib from 'node:zlib';
import { encodeExr, floatToHalf, halfToFloat } from '@mint-tally/core';
import type { Database } from '@mint-tally/store';
import type { APIRequestContext, Page } from '@playwright/test';
import sharp from 'sharp';
import { expect, type Application } from './application.ts';
import { askForCount, databaseOf, makeShot, untilQuiet } from './asking.ts';

const [WIDTH, HEIGHT] = [64, 36];
export const tools = { deflate: (data: Uint8Array) => zlib.deflateSync(data), crc32: (data: Uint8Array) => zlib.crc32(data) };
/** Light in each channel: rising across, down and with the frame, so that every pixel of every frame is its own; half of 1010 is seen through. */
export const light = (channel: number, x: number, y: number, frame: number) =>
  channel === 3 ? (frame === 1010 ? 0.5 : 1) : 0.004 * (1 + x) * (channel === 0 ? 1 : 0.6) + 0.003 * y * (channel === 2 ? 1 : 0.5) + 0.01 * (frame - 1000);
export const asHalf = (value: number) => halfToFloat(floatToHalf(value));

export function beauty(frame: number, spark: readonly [number, number] | null = null): Uint8Array {
  const window = [0, 0, WIDTH - 1, HEIGHT - 1] as const;
  const isSpark = (i: number) => spark !== null && i === spark[1] * WIDTH + spark[0];
  const plane = (c: number) =>
    Uint16Array.from({ length: WIDTH * HEIGHT }, (_, i) => floatToHalf(isSpark(i) && c < 3 ? 30 : light(c, i % WIDTH, Math.floor(i / WIDTH), frame)));
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

/** Two shots whose every pixel is known: the first with two passes and faults, the second with sound. Gives the database. */
export async function makeKnownShots(request: APIRequestContext, application: Application): Promise<Database> {
  const database = databaseOf(application);
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
  return database;
}

export const canvasOf = (page: Page) => page.locator('canvas[aria-label^="orr_010"]');
export const panelOf = (page: Page) => page.getByRole('complementary', { name: 'What is looked at' });
export const memory = (page: Page) => page.getByRole('group', { name: 'Play' }).getByText(/^\d+ of \d+$/);

export async function openView(page: Page): Promise<void> {
  await page.goto('/shots/1/view');
  await expect(page.getByText('the file’s own pixels')).toBeVisible();
  await expect(memory(page)).toHaveText('10 of 12');
}

/** The pixel of the picture that stands near the middle of the viewer at 200 %, and its colour on the screen. */
export async function middle(page: Page): Promise<{ x: number; y: number; colour: number[] }> {
  const box = (await canvasOf(page).boundingBox())!;
  const [x, y] = [Math.floor(box.x + box.width / 2) + 41, Math.floor(box.y + box.height / 2) + 21];
  await page.mouse.move(x, y);
  // While another picture comes the pointer is over none.
  const heading = panelOf(page).getByRole('heading', { name: /^Pixel \d+, \d+/ });
  const at = /Pixel (\d+), (\d+)/.exec(await heading.innerText())!;
  const shot = await page.screenshot({ clip: { x, y, width: 1, height: 1 } });
  const { data } = await sharp(shot).removeAlpha().raw().toBuffer({ resolveWithObject: true });
  return { x: Number(at[1]), y: Number(at[2]), colour: [...data] };
}
