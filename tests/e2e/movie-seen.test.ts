import { spawnSync } from 'node:child_process';
import path from 'node:path';
import type { Database } from '@mint-tally/store';
import { expect, test } from './application.ts';
import { makeKnownShots, middle, openView } from './known-shots.ts';

test.use({ instance: 'seen', writable: true });
let database: Database;
test.beforeAll(async ({ application, request }) => {
  database = await makeKnownShots(request, application);
});
test.afterAll(() => database.close());

/** Frames of the shot; 1005 is missing and 1008 was cut short. */
const [FIRST, WIDTH, HEIGHT] = [1001, 64, 36];

test('a frame of the movie is the picture that View shows of it, to what the codec takes away', async ({ page, application, request }) => {
  const { job } = (await (
    await request.post(`${application.address}/api/v1/shots/1/jobs`, {
      data: {
        ...{ kind: 'movie', root: 'deliveries', file: 'seen.mp4', pass: 'beauty' },
        settings: { codec: 'h264', quality: 100, exposure: 1, everyFrameKey: true },
      },
    })
  ).json()) as { job: number };
  const ended = async () => (await (await request.get(`${application.address}/api/v1/jobs/${job}`)).json()) as { state: string; result: unknown };
  await expect.poll(async () => (await ended()).state).toBe('done');
  /** A pixel of the movie as a player shows it. */
  const pixelOf = (frame: number, x: number, y: number) => {
    const { stdout } = spawnSync(
      'ffmpeg',
      [
        ...['-v', 'error', '-i', path.join(application.deliveries, 'seen.mp4'), '-vf'],
        ...[`select=eq(n\\,${frame - FIRST}),scale=in_color_matrix=bt709:in_range=tv`, '-frames:v', '1', '-pix_fmt', 'rgb24', '-f', 'rawvideo', '-'],
      ],
      { maxBuffer: 1 << 24 },
    );
    expect(stdout).toHaveLength(WIDTH * HEIGHT * 3);
    return [...stdout.subarray((y * WIDTH + x) * 3, (y * WIDTH + x) * 3 + 3)];
  };
  await openView(page);
  await page.keyboard.press('2');
  for (let half = 0; half < 2; half++) await page.keyboard.press('e');
  for (const frame of [1001, 1003, 1004]) {
    const { x, y, colour } = await middle(page);
    const moving = pixelOf(frame, x, y);
    expect(Math.max(...colour.map((value, i) => Math.abs(value - moving[i]!))), `${frame}: ${moving} where View shows ${colour}`).toBeLessThanOrEqual(3);
    // Another frame is another picture: the comparison can fail.
    expect(Math.max(...colour.map((value, i) => Math.abs(value - pixelOf(frame + 5, x, y)[i]!)))).toBeGreaterThan(3);
    await page.keyboard.press('ArrowRight');
    if (frame === 1001) await page.keyboard.press('ArrowRight');
  }
});
