// Plays a shot that others wrote in the real application, in Debian's Chromium with software rendering: 960 x 540 half
// RGBA by OpenImageIO at 24, 25 and 23.976, cold, from memory, and as the difference to the next frame. Prints what stood
// on the screen, what was dropped, and how far the frame that is shown has gone from the one that the clock demands.
import { spawnSync } from 'node:child_process';
import { mkdirSync } from 'node:fs';
import path from 'node:path';
import { withApplication } from './bench-application.mjs';

const FRAMES = 48;
const [WIDTH, HEIGHT] = [960, 540];
const SECONDS = Number(process.argv[2] ?? 60);
const RATES = process.argv[3] ? [process.argv[3]] : ['24', '25', '23.976'];
const WAYS = process.argv[4] ? [process.argv[4]] : ['cold', 'from memory', 'difference'];

function run(program, ...argv) {
  const { status, stderr, error } = spawnSync(program, argv, { encoding: 'utf8' });
  if (error || status !== 0) throw new Error(`${program} failed: ${error?.message ?? stderr}`);
}

/** A picture that moves a little to the right in each frame, with its own noise. */
function makeShot(shots) {
  mkdirSync(path.join(shots, 'played'));
  const still = path.join(shots, '..', 'still.tif');
  run('convert', '-size', `${WIDTH}x${HEIGHT}`, '-seed', '7', 'plasma:fractal', '-attenuate', '0.15', '+noise', 'Gaussian', '-depth', '16', still);
  for (let frame = 1; frame <= FRAMES; frame++) {
    const file = path.join(shots, 'played', `played.${String(frame).padStart(4, '0')}.exr`);
    run('oiiotool', still, '--ch', 'R,G,B,A=1.0', '--cshift', `+${frame * 4}+0`, '-d', 'half', '--compression', 'zip', '-o', file);
  }
}

const shown = async (page) => {
  const text = (await page.getByRole('group', { name: 'Play' }).innerText()).replace(/\s+/g, ' ');
  return { measured: Number(/measured ([\d.]+)/.exec(text)?.[1] ?? NaN), dropped: Number(/dropped (\d+)/.exec(text)[1]) };
};

/** The frame under the playhead together with the page's clock: both are read in one turn. */
const frameNow = (page) =>
  page.evaluate(() => ({ frame: Number(document.querySelector('[data-playhead]').getAttribute('aria-valuenow')), at: performance.now() / 1000 }));

await withApplication(makeShot, async (browser, address) => {
  const context = await browser.newContext({ viewport: { width: 1280, height: 1000 } });
  const page = await context.newPage();
  page.setDefaultTimeout(120_000);
  const brief = { shot: 'played', range: `1-${FRAMES}`, fps: '24', passes: [{ name: 'beauty', role: 'beauty', pattern: 'played.####.exr' }] };
  const made = await context.request.post(`${address}/shots/new`, {
    headers: { origin: address, accept: 'application/json' },
    form: { root: 'shots', folder: 'played', note: '', brief: JSON.stringify(brief) },
  });
  const shot = /\/shots\/(\d+)\//.exec((await made.json()).location)[1];
  await context.request.post(`${address}/shots/${shot}/tally?/count`, { headers: { origin: address, accept: 'application/json' }, form: {} });
  await page.goto(`${address}/shots/${shot}/tally`);
  await page.getByText(/Counted .* brief v1/).waitFor();
  for (const rate of RATES) {
    const [up, down] = rate === '23.976' ? [24_000, 1001] : [Number(rate), 1];
    for (const way of WAYS) {
      await page.goto(`${address}/shots/${shot}/view`);
      await page.getByRole('button', { name: /^Play/ }).first().waitFor();
      if (way !== 'cold') await page.getByText(`${FRAMES} of ${FRAMES}`, { exact: true }).waitFor();
      await page.keyboard.press('1');
      // To the next frame, which lies in the same memory.
      if (way === 'difference') await page.keyboard.press('d');
      if (rate !== '24') await page.getByLabel('Rate', { exact: true }).selectOption(rate);
      await page.waitForTimeout(way === 'cold' ? 0 : 1500);
      await page.locator('body').click({ position: { x: 5, y: 5 } });
      await page.keyboard.press('p');
      await page.waitForTimeout(1000);
      const first = await frameNow(page);
      await page.waitForTimeout(SECONDS * 1000);
      const last = await frameNow(page);
      const { measured, dropped } = await shown(page);
      // What is shown may be a frame late by the refresh that it was read in.
      const due = Math.round(((last.at - first.at) * up) / down);
      const gone = (((last.frame - first.frame - due) % FRAMES) + FRAMES) % FRAMES;
      const drift = gone > FRAMES / 2 ? gone - FRAMES : gone;
      const passed = Math.round(((SECONDS + 1) * up) / down);
      console.log(
        `playing ${WIDTH} x ${HEIGHT} at ${rate.padEnd(6)} ${way.padEnd(11)} ${passed - dropped} of ${passed} frames shown, ${dropped} dropped, measured ${measured.toFixed(2)}, drift ${Math.abs(drift) <= 1 ? 0 : drift} frames`,
      );
      await page.keyboard.press('p');
    }
  }
});
