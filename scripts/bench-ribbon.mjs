// Measures the ribbon in the real application: 12 passes of 10,000 frames, zoomed and panned in
// Debian's Chromium. Prints the script time of a frame of the screen, drawing included.
import { mkdirSync, writeFileSync } from 'node:fs';
import path from 'node:path';
import zlib from 'node:zlib';
import { withApplication } from './bench-application.mjs';

const PASSES = 12;
const FRAMES = 10_000;
const AIM = 20;

/** A PNG of one grey pixel. */
const PIXEL = Buffer.concat([
  Buffer.from([0x89, 0x50, 0x4e, 0x47, 0x0d, 0x0a, 0x1a, 0x0a]),
  chunk('IHDR', Buffer.from([0, 0, 0, 1, 0, 0, 0, 1, 8, 0, 0, 0, 0])),
  chunk('IDAT', zlib.deflateSync(Buffer.from([0, 128]))),
  chunk('IEND', Buffer.alloc(0)),
]);

function chunk(type, data) {
  const body = Buffer.concat([Buffer.from(type, 'latin1'), data]);
  const out = Buffer.alloc(body.length + 8);
  out.writeUInt32BE(data.length, 0);
  body.copy(out, 4);
  out.writeUInt32BE(zlib.crc32(body), body.length + 4);
  return out;
}

/**
 * One frame in twenty is there, one of those in five empty: the ribbon draws as much for a frame that
 * is missing, and the count is over soon.
 */
function makeShot(shots) {
  for (let pass = 1; pass <= PASSES; pass++) {
    const name = `pass${String(pass).padStart(2, '0')}`;
    mkdirSync(path.join(shots, 'long', name), { recursive: true });
    for (let frame = 1; frame <= FRAMES; frame++) {
      if (frame % 20 !== pass && frame > 1 && frame < FRAMES) continue;
      writeFileSync(path.join(shots, 'long', name, `long_${name}.${String(frame).padStart(5, '0')}.png`), frame % 5 === 0 ? '' : PIXEL);
    }
  }
}

/** Records what the page's scripts do while something is done, by the browser's own trace. */
async function traceScripts(session, work) {
  const events = [];
  const collect = ({ value }) => events.push(...value);
  session.on('Tracing.dataCollected', collect);
  await session.send('Tracing.start', { traceConfig: { includedCategories: ['devtools.timeline'] }, transferMode: 'ReportEvents' });
  await work();
  const complete = new Promise((resolve) => session.once('Tracing.tracingComplete', resolve));
  await session.send('Tracing.end');
  await complete;
  session.off('Tracing.dataCollected', collect);
  return events;
}

/** Milliseconds of script between two refreshes that draw: the drawing and the events before it. */
function scriptTimes(events) {
  const scripts = events.filter(({ name, dur }) => dur !== undefined && ['EventDispatch', 'FireAnimationFrame', 'RunMicrotasks', 'TimerFire'].includes(name));
  const times = [];
  let spent = 0;
  let end = 0;
  for (const { name, ts, dur } of scripts.sort((a, b) => a.ts - b.ts)) {
    // What runs inside something that is counted already is not counted again.
    if (ts + dur > end) {
      spent += (ts + dur - Math.max(ts, end)) / 1000;
      end = ts + dur;
    }
    if (name !== 'FireAnimationFrame') continue;
    times.push(spent);
    spent = 0;
  }
  return times;
}

await withApplication(makeShot, async (browser, address) => {
  const page = await browser.newPage({ viewport: { width: 1280, height: 800 } });
  page.setDefaultTimeout(180_000);
  await page.goto(`${address}/shots/new`);
  await page.getByRole('button', { name: 'long' }).click();
  await page.getByRole('button', { name: 'pass01' }).waitFor();
  await page.getByRole('button', { name: 'Use this folder' }).click();
  await page.getByRole('button', { name: 'Save and count' }).click();
  await page.getByText(/Counted .* brief v1/).waitFor();
  await page.reload();
  // The page is alive when it has asked for the frame.
  await page
    .getByText('Ordered is')
    .or(page.getByRole('button', { name: 'Copy path' }))
    .waitFor();
  const ribbon = page.getByRole('slider', { name: 'Playhead' }).locator('canvas');
  const box = await ribbon.boundingBox();
  await page.mouse.move(box.x + box.width / 2, box.y + 60);
  const session = await page.context().newCDPSession(page);
  const rows = [];
  for (const [name, zooms] of [
    ['all frames', 0],
    ['a tenth of them', 4],
    ['150 frames', 8],
  ]) {
    for (let i = 0; i < zooms; i++) await page.keyboard.press('+');
    await page.waitForTimeout(500);
    const events = await traceScripts(session, async () => {
      for (let i = 0; i < 60; i++) {
        if (zooms === 0) await page.mouse.move(box.x + 100 + i * 8, box.y + 60);
        else await page.mouse.wheel(i < 30 ? 60 : -60, 0);
        await page.waitForTimeout(16);
      }
    });
    const times = scriptTimes(events);
    rows.push([name, Math.max(...times), times.reduce((sum, time) => sum + time, 0) / times.length]);
    await page.keyboard.press('0');
  }
  for (const [name, most, mean] of rows) {
    console.log(
      `ribbon of ${PASSES} x ${FRAMES}, ${name}: ${most.toFixed(1)} ms of script a refresh at most, ${mean.toFixed(1)} ms on average; aim ${AIM} ms, ${most <= AIM ? 'met' : 'missed'}`,
    );
  }
});
