import { mkdirSync, readdirSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import path from 'node:path';
import type { Database } from '@mint-tally/store';
import { LIT_LIGHTS, LIT_PASSES, litBrief, renderLit, writeLitShot } from '../support/lit-shot.ts';
import { expect, test } from './application.ts';
import { askForCount, databaseOf, makeShot, untilQuiet } from './asking.ts';

test.use({ instance: 'denoise', writable: true });
test.describe.configure({ mode: 'serial' });

const FRAMES = 10;
/** So many that a range of them does not end before anybody looks. */
const MANY = 48;
let database: Database;
let folder = '';
const filesOf = (pass: string) => readdirSync(path.join(folder, pass)).sort();

test.beforeAll(async ({ application, request }) => {
  folder = path.join(application.shots, 'orr_010');
  mkdirSync(folder);
  writeLitShot(
    folder,
    Array.from({ length: FRAMES }, (_, i) => renderLit(i, 4, 20 + i)),
  );
  await makeShot(request, application, 'orr_010', litBrief(FRAMES));
  database = databaseOf(application);
  await askForCount(request, application, 1);
  await untilQuiet(database);
});
test.afterAll(() => database.close());

test('a stretch is tried at some strengths, and watched beside what was rendered', async ({ page }) => {
  await page.goto('/shots/1/assay');
  await page.getByRole('link', { name: 'Denoise' }).click();
  await expect(page.getByText('Nothing has been denoised yet.')).toBeVisible();
  const range = page.getByLabel('Frames to try');
  await expect(range).toHaveValue('1001-1008');
  await range.fill('2001-2003');
  await expect(page.getByText('None of these frames is ordered of beauty.')).toBeVisible();
  await expect(page.getByRole('button', { name: /^Try/ })).toBeDisabled();
  await range.fill('1004-1006');
  const own = page.getByLabel('Another strength, as a number; middle is 1');
  await own.fill('99');
  await expect(page.getByRole('button', { name: /^Try/ })).toBeDisabled();
  await own.fill('1.5');
  await page.getByRole('checkbox', { name: 'light' }).uncheck();
  // With the keyboard alone from here.
  await page.getByRole('button', { name: 'Try 3 frames at 2 strengths' }).focus();
  await page.keyboard.press('Enter');
  const table = page.getByRole('table', { name: 'Test of 3 frames of beauty' });
  await expect(table.getByRole('link', { name: 'Watch 1.5 beside what was rendered' })).toBeVisible();
  for (const strength of ['middle', '1.5']) {
    const cells = table.getByRole('row', { name: new RegExp(`^${strength}`) }).getByRole('cell');
    // Less than half of the noise, and most of the detail.
    expect(Number(/(\d+) %/.exec(await cells.nth(0).innerText())![1])).toBeLessThan(50);
    expect(Number(/(\d+) %/.exec(await cells.nth(2).innerText())![1])).toBeGreaterThan(30);
  }
  expect(readdirSync(folder)).not.toContain('beauty_denoised');

  await table.getByRole('link', { name: 'Watch middle beside what was rendered' }).click();
  await expect(page.getByText('against denoised, middle')).toBeVisible();
  await expect(page.getByText('3 of 3 frames have a partner')).toBeVisible();
  await expect(page.getByRole('group', { name: 'Way of comparing' }).getByRole('button', { name: 'split' })).toHaveAttribute('aria-pressed', 'true');
  await expect(page.getByRole('slider', { name: 'Playhead' })).toHaveAttribute('aria-valuenow', '1004');
  await expect(page.getByText('of 1004-1006 (selection)')).toBeVisible();
  // What somebody chooses then stays, also when the page is read anew.
  await page.getByRole('group', { name: 'Way of comparing' }).getByRole('button', { name: 'differs' }).click();
  const renewed = page.waitForResponse((response) => response.url().includes('__data.json'));
  await page.evaluate(() => fetch('/shots/1/tally?/count', { method: 'POST', headers: { accept: 'application/json' }, body: new URLSearchParams() }));
  await renewed;
  await expect(page.getByRole('group', { name: 'Way of comparing' }).getByRole('button', { name: 'differs' })).toHaveAttribute('aria-pressed', 'true');

  await page.goBack();
  await page.getByRole('link', { name: 'Ghosts of middle: where neighbours were kept out' }).click();
  await expect(page.getByText('against ghosts kept out, middle')).toBeVisible();
  await page.goto('/shots/1/view?test=999&strength=1');
  await expect(page.getByRole('combobox', { name: 'Compare with' })).toHaveValue('');
});

test('a strength is taken for the range, paused, gone on with, and becomes a pass like any other', async ({ page }) => {
  await page.goto('/shots/1/assay/denoise');
  await page.getByRole('button', { name: 'Take middle' }).click();
  await expect(page.getByText('beauty_denoised, middle, over 5 frames: goes on.')).toBeVisible();
  // Another one must not come between.
  await expect(page.getByRole('button', { name: 'Take 1.5' })).toBeDisabled();
  await page.getByRole('button', { name: 'Pause' }).click();
  await expect(page.getByText('paused: it goes on behind the last frame that is there')).toBeVisible();
  await page.getByRole('button', { name: 'Go on' }).click();
  await expect(page.getByText('beauty_denoised, middle, over 5 frames: done.')).toBeVisible({ timeout: 90_000 });
  expect(filesOf('beauty_denoised')).toEqual(filesOf('beauty').map((name) => name.replace('beauty', 'beauty_denoised')));
  await untilQuiet(database);
  await page.getByRole('link', { name: 'Its tally' }).click();
  await expect(page.getByText('beauty_denoised 1001 sound')).toBeVisible();
  await expect(page.getByTestId('missing')).toContainText('0');
  await page.goto('/shots/1/brief');
  await expect(page.getByLabel('What beauty_denoised is made from')).toHaveValue('beauty');
  await page.goto('/shots/1/assay/denoise');
  await page.getByRole('link', { name: 'Watch beside beauty' }).click();
  await expect(page.getByText('against beauty_denoised')).toBeVisible();
  await expect(page.getByText(/10 of 10/).first()).toBeVisible();
});

test('what has gone of a result is told, is not offered for rendering, and is made again', async ({ page, application, request }) => {
  const [, second, third] = filesOf('beauty_denoised');
  for (const name of [second!, third!]) rmSync(path.join(folder, 'beauty_denoised', name));
  await askForCount(request, application, 1);
  await untilQuiet(database);
  await page.goto('/shots/1/batch');
  await expect(page.getByText('beauty_denoised lacks 1002-1003: it is not rendered, but denoised.')).toBeVisible();
  await expect(page.getByRole('checkbox', { name: 'beauty', exact: true })).toBeVisible();
  await expect(page.getByRole('checkbox', { name: 'beauty_denoised' })).toHaveCount(0);
  const told = await request.post(`${application.address}/shots/1/mend/list`, {
    headers: { origin: application.address },
    data: { entries: [{ pass: 'beauty_denoised', frames: '1002' }], reason: 'gone', origin: 'viewer' },
  });
  expect(await told.text()).toContain('The pass beauty_denoised is not rendered: it is denoised from beauty.');
  await page.goto('/shots/1/tally');
  const row = page.locator('li[data-code="missing-frame"]');
  await row.getByRole('button').first().click();
  await expect(row.getByText('have these frames denoised again')).toBeVisible();
  await expect(row.getByRole('button', { name: 'Render these…' })).toHaveCount(0);
  await row.getByRole('link', { name: 'Denoise…' }).click();
  await expect(page.getByText('To be made again, by the newest count: 1002-1003 of beauty_denoised.')).toBeVisible();
  // What lies there and is not sound is not written over: it is set aside first.
  writeFileSync(path.join(folder, 'beauty_denoised', second!), 'cut');
  await askForCount(request, application, 1);
  await untilQuiet(database);
  await expect(page.getByRole('button', { name: 'Make them again' })).toHaveCount(0);
  await page.getByRole('link', { name: 'Set aside 1002 of beauty_denoised…' }).click();
  // Along with what lies in the folder and was never ordered.
  await page.getByRole('button', { name: 'Set aside 2 files' }).click();
  await expect.poll(() => filesOf('beauty_denoised').length).toBe(FRAMES - 2);
  await untilQuiet(database);
  await page.goto('/shots/1/assay/denoise');
  await expect(page.getByText('To be made again, by the newest count: 1002-1003 of beauty_denoised.')).toBeVisible();
  await page.getByRole('button', { name: 'Make them again' }).focus();
  await page.keyboard.press('Enter');
  await expect(page.getByText('means over 2 of 10 frames: the others were there already')).toBeVisible();
  await untilQuiet(database);
  expect(filesOf('beauty_denoised')).toHaveLength(FRAMES);
  await expect(page.getByText('To be made again')).toHaveCount(0);

  // An original that is another one now.
  const original = path.join(folder, 'beauty', filesOf('beauty')[4]!);
  const rendered = readFileSync(original);
  writeFileSync(original, readFileSync(path.join(folder, 'beauty', filesOf('beauty')[5]!)));
  await askForCount(request, application, 1);
  await untilQuiet(database);
  await expect(page.getByRole('link', { name: 'Set aside 1005 of beauty_denoised…' })).toBeVisible();
  writeFileSync(original, rendered);
  await askForCount(request, application, 1);
  await untilQuiet(database);
  await expect(page.getByText('To be made again')).toHaveCount(0);
});

test('another strength goes to another pass, and one that was stopped for good is begun anew', async ({ page }) => {
  await page.goto('/shots/1/assay/denoise');
  await page.getByRole('button', { name: 'Take 1.5' }).click();
  await expect(page.getByText('beauty_denoised_2, 1.5, over 5 frames: goes on.')).toBeVisible();
  await page.getByRole('button', { name: 'Stop for good' }).click();
  await expect(page.getByText(/beauty_denoised_2, 1.5, over 5 frames: stopped/)).toBeVisible();
  await untilQuiet(database);
  await page.reload();
  await page.getByRole('button', { name: 'Take 1.5' }).click();
  await expect(page.getByText('beauty_denoised_2, 1.5, over 5 frames: done.')).toBeVisible({ timeout: 90_000 });
  expect(filesOf('beauty_denoised_2')).toHaveLength(FRAMES);
  // The first one is as it was.
  expect(filesOf('beauty_denoised')).toHaveLength(FRAMES);
  await untilQuiet(database);
  await page.goto('/shots/1/brief');
  await expect(page.getByLabel('What beauty_denoised_2 is made from')).toHaveValue('beauty');
});

test('a strength is tried while a range goes on, which waits for it', async ({ page, application, request }) => {
  const many = path.join(application.shots, 'orr_020');
  mkdirSync(many);
  writeLitShot(
    many,
    Array.from({ length: MANY }, (_, i) => renderLit(i, 4, 60 + i)),
  );
  const shot = await makeShot(request, application, 'orr_020', { ...litBrief(MANY), shot: 'orr_020' });
  await askForCount(request, application, shot);
  await untilQuiet(database);
  await page.goto(`/shots/${shot}/assay/denoise`);
  const range = page.getByLabel('Frames to try');
  await range.fill('1001-1002');
  await page.getByRole('button', { name: 'Try 2 frames at 2 strengths' }).click();
  await page.getByRole('button', { name: 'Take middle' }).click();
  const status = page.getByRole('status').filter({ hasText: 'beauty_denoised, middle, over 5 frames' });
  await expect(status).toContainText(/: (goes on|waits for)/);
  await range.fill(`1001-${1000 + MANY}`);
  await page.getByRole('checkbox', { name: 'strong' }).check();
  await expect(page.getByText('the range waits meanwhile')).toBeVisible();
  await page.getByRole('button', { name: `Try ${MANY} frames at 3 strengths` }).click();
  await expect(status).toContainText('waits for the test, then goes on.');
  // Of tests one goes on; and a range that waits can be paused, and gone on with.
  await expect(page.getByRole('button', { name: /^Try/ })).toBeDisabled();
  await page.getByRole('button', { name: 'Pause' }).click();
  await expect(status).toContainText('paused');
  await expect(page.getByRole('button', { name: 'Stop the test' })).toBeVisible();
  await page.getByRole('button', { name: 'Go on' }).click();
  await expect(status).toContainText('waits for the test, then goes on.');
  await page.getByRole('button', { name: 'Stop the test' }).click();
  await expect(page.getByRole('button', { name: 'Stop the test' })).toHaveCount(0);
  const table = page.getByRole('table', { name: `Test of ${MANY} frames of beauty` });
  await expect(table.getByRole('row', { name: /^strong/ })).toContainText('was not tried');
  await expect(status).toContainText(': done.');
  expect(readdirSync(path.join(many, 'beauty_denoised'))).toHaveLength(MANY);
  await untilQuiet(database);
});

test('lights go along with their beauty, each to a pass of its own', async ({ page, application, request }) => {
  const lit = path.join(application.shots, 'orr_030');
  const passes = [...LIT_PASSES, ...LIT_LIGHTS];
  mkdirSync(lit);
  writeLitShot(
    lit,
    Array.from({ length: 4 }, (_, i) => renderLit(i, 4, 20 + i, 'mirrors')),
    passes,
  );
  rmSync(path.join(lit, 'specular', 'specular.1003.exr'));
  const shot = await makeShot(request, application, 'orr_030', { ...litBrief(4, passes), shot: 'orr_030' });
  await askForCount(request, application, shot);
  await untilQuiet(database);
  await page.goto(`/shots/${shot}/assay/denoise`);
  await page.getByLabel('Frames to try').fill('1001-1002');
  await page.getByRole('checkbox', { name: 'light', exact: true }).uncheck();
  await page.getByRole('button', { name: 'Try 2 frames at one strength' }).click();
  const along = page.getByRole('checkbox', { name: /^With its lights: diffuse, specular, transmission, emission/ });
  await along.focus();
  await page.keyboard.press('Space');
  await expect(along).toBeChecked();
  await page.getByRole('button', { name: 'Take middle' }).click();
  const status = page.getByRole('status').filter({ hasText: 'beauty_denoised, middle, over 5 frames' });
  await expect(status).toContainText('with diffuse_denoised, specular_denoised, transmission_denoised, emission_denoised: done.');
  await expect(page.getByText(/^Without specular, which has no file there/)).toContainText('1003');
  expect(readdirSync(path.join(lit, 'diffuse_denoised'))).toHaveLength(4);
  expect(readdirSync(path.join(lit, 'specular_denoised'))).toHaveLength(3);
  await untilQuiet(database);
  await page.goto(`/shots/${shot}/brief`);
  for (const pass of ['beauty', ...LIT_LIGHTS]) await expect(page.getByLabel(`What ${pass}_denoised is made from`)).toHaveValue(pass);
  // A light has none of its own.
  await page.goto(`/shots/${shot}/assay/denoise`);
  await page.getByRole('combobox', { name: 'Pass' }).selectOption('diffuse');
  await expect(page.getByRole('checkbox', { name: /^With its lights/ })).toHaveCount(0);
});

test('asked wrongly, it says what is wrong and begins nothing', async ({ page, application, request }) => {
  const { address } = application;
  const ask = async (form: Record<string, string>) => {
    const wish = { purpose: 'test', pass: 'beauty', strengths: '1', frames: '5', range: '1001-1003', region: '', ...form };
    const response = await request.post(`${address}/shots/1/assay/denoise?/begin`, { headers: { origin: address, accept: 'application/json' }, form: wish });
    return ((await response.json()) as { type: string; data: string }).data;
  };
  expect(await ask({ pass: 'normal' })).toContain('The pass normal is not denoised: means of normals are no normals.');
  expect(await ask({ pass: 'beauty_denoised' })).toContain('it has been denoised already');
  expect(await ask({ pass: 'gone' })).toContain('The brief orders no pass gone.');
  expect(await ask({ range: '1-3' })).toContain('None of 1-3 is ordered of beauty.');
  expect(await ask({ range: 'all of it' })).toContain('all of it');
  expect(await ask({ frames: '4' })).toContain('This cannot be asked for');
  expect(await ask({ strengths: '0' })).toContain('This cannot be asked for');
  expect(await ask({ region: '1 2 3' })).toContain('This cannot be asked for');
  expect(await ask({ purpose: 'range', withLights: 'yes' })).toContain('No lights go along with beauty.');
  expect(await database.rows("SELECT id FROM jobs WHERE kind = 'denoise' AND state IN ('queued', 'running')")).toEqual([]);
  await page.goto('/shots/1/assay/denoise');
  await expect(page.getByRole('alert')).toHaveCount(0);
});
