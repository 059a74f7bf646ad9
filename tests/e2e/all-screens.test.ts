import { mkdirSync, rmSync, truncateSync, writeFileSync } from 'node:fs';
import path from 'node:path';
import type { Page } from '@playwright/test';
import { pngBytes, writeSequence } from '../support/frames.ts';
import { expectAccessible } from './accessible.ts';
import { expect, test, type Application } from './application.ts';
import { makeShot } from './asking.ts';
import { layoutFaults, sizes } from './layout.ts';

/** Every screen at every size and in both themes, with a shot like any other and one of long names and thousands of frames. */
test.use({ instance: 'screens', writable: true });
test.describe.configure({ mode: 'serial' });

const LONG = 'orr_long_name_of_a_shot_that_somebody_in_another_building_thought_of';
const LONG_PASSES = ['beauty', 'the_light_that_comes_through_the_amber_glass_and_the_brass', 'depth'];
const FRAMES = 3000;

/** A shot in which something of every kind is wrong. */
async function makeFaultyShot(application: Application, page: Page): Promise<number> {
  const folder = path.join(application.shots, 'orr_060');
  for (const pass of ['beauty', 'depth']) writeSequence(folder, 1001, 1024, (frame) => `${pass}/orr_060_${pass}.${frame}.png`);
  const at = (frame: number, pass = 'beauty') => path.join(folder, `${pass}/orr_060_${pass}.${frame}.png`);
  for (const frame of [1003, 1004, 1011]) rmSync(at(frame));
  truncateSync(at(1008), 0);
  writeFileSync(at(1015), pngBytes(3, 16, 9));
  writeFileSync(at(1031), pngBytes(4));
  writeFileSync(path.join(folder, 'notes of the night.txt'), 'all well');
  const passes = ['beauty', 'depth'].map((name) => ({ name, role: name, pattern: `${name}/orr_060_${name}.####.png`, depth: '8' }));
  return makeShot(page.request, application, 'orr_060', { shot: 'orr_060', range: '1001-1024', fps: '24', resolution: [32, 18], passes });
}

async function makeLongShot(application: Application, page: Page): Promise<number> {
  const folder = path.join(application.shots, LONG);
  // Pictures as others write them differ; here a few do for thousands of files.
  const pictures = Array.from({ length: 24 }, (_, i) => pngBytes(i));
  for (const pass of LONG_PASSES) {
    mkdirSync(path.join(folder, pass), { recursive: true });
    for (let frame = 1; frame <= FRAMES; frame++) {
      if (frame % 101 === 0) continue;
      writeFileSync(
        path.join(folder, pass, `${LONG}_${pass}.${String(frame).padStart(4, '0')}.png`),
        frame % 97 === 0 ? '' : pictures[(frame * 7 + pass.length) % 24],
      );
    }
  }
  const passes = LONG_PASSES.map((name) => ({ name, pattern: `${name}/${LONG}_${name}.####.png`, depth: '8' }));
  return makeShot(page.request, application, LONG, { shot: LONG, range: `1-${FRAMES}`, fps: '24', resolution: [32, 18], passes });
}

/** As the button beside the bar does it; whatever changes its tone by and by has done so. */
const setTheme = (page: Page, theme: 'dark' | 'light') =>
  page.evaluate(async (wanted) => {
    document.documentElement.dataset.theme = wanted;
    await new Promise((resolve) => requestAnimationFrame(() => requestAnimationFrame(resolve)));
    const changing = document.getAnimations().filter((animation) => animation instanceof CSSTransition);
    await Promise.allSettled(changing.map(({ finished }) => finished));
  }, theme);

/** Notes what is wrong with how a page lies in windows of some sizes. */
async function noteFaults(page: Page, where: string, windows: readonly (typeof sizes)[number][], faults: string[]): Promise<void> {
  for (const size of windows) {
    await page.setViewportSize(size);
    // Canvases and lists take their size from the window a frame later.
    await page.evaluate(() => new Promise((resolve) => requestAnimationFrame(() => requestAnimationFrame(resolve))));
    for (const fault of await layoutFaults(page)) faults.push(`${where}, ${size.name}: ${fault}`);
  }
}

/** Looks at what is shown at every size, and with axe at one of them, in both themes. */
async function walk(page: Page, where: string, faults: string[]): Promise<void> {
  await noteFaults(page, where, sizes, faults);
  await page.setViewportSize({ width: 1280, height: 800 });
  await expectAccessible(page, where);
  await setTheme(page, 'light');
  // A theme changes colours alone: what one holds at every size the other does.
  await noteFaults(page, `light ${where}`, sizes.slice(0, 1), faults);
  await page.setViewportSize({ width: 1280, height: 800 });
  await expectAccessible(page, `light ${where}`, true);
  await setTheme(page, 'dark');
}

const shots: Record<'faulty' | 'long', number> = { faulty: 0, long: 0 };

test('shots with faults and with long names are counted', async ({ page, application }) => {
  shots.faulty = await makeFaultyShot(application, page);
  shots.long = await makeLongShot(application, page);
  await page.goto(`/shots/${shots.long}/tally`);
  // 9,000 files are counted beside whatever else the computer does.
  await expect(page.getByTestId('missing')).toContainText('87');
  await expect(page.getByTestId('broken')).toContainText('90');
});

test('every screen holds at every size, and in both themes', async ({ page }) => {
  test.setTimeout(720_000);
  const faults: string[] = [];
  for (const screen of ['/', '/shots/new', '/kept', '/api']) {
    await page.goto(screen);
    await walk(page, screen, faults);
  }
  for (const [name, shot] of Object.entries(shots)) {
    for (const screen of [
      'brief',
      'batch',
      'batch/merge',
      'tally',
      'view',
      'view/sheet',
      'assay',
      'assay/report',
      'assay/denoise',
      'mend',
      'mend?do=rename',
      'handoff',
      'handoff/report',
      'sheet',
    ]) {
      await page.goto(`/shots/${shot}/${screen}`);
      if (screen === 'batch') await page.getByLabel('Rendered by').selectOption({ label: 'Rendered elsewhere: watch the folder' });
      if (screen === 'brief') await page.getByText('Test frames, cuts, sound, scale').click();
      await walk(page, `${name} ${screen}`, faults);
      if (screen === 'handoff') {
        for (const making of ['Review movie', 'Contact sheet']) {
          await page.getByRole('button', { name: making, exact: true }).click();
          await walk(page, `${name} ${making}`, faults);
        }
      }
      if (screen !== 'tally') continue;
      for (const tab of ['Files', 'What changed', 'Earlier counts']) {
        await page.getByRole('tab', { name: tab }).click();
        await walk(page, `${name} ${tab}`, faults);
      }
      await page
        .getByRole('complementary', { name: 'Docket' })
        .getByRole('button', { name: /Frames missing/ })
        .first()
        .click();
      await walk(page, `${name} a finding`, faults);
    }
  }
  expect(faults).toEqual([]);
});
