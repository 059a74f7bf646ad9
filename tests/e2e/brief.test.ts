import { mkdirSync, readFileSync, writeFileSync } from 'node:fs';
import path from 'node:path';
import { writeSequence } from '../support/frames.ts';
import { expect, test } from './application.ts';
import { field, sums, told, unfold } from './brief-entries.ts';

test.use({ instance: 'brief' });
test.describe.configure({ mode: 'serial' });

/** A WAV file of silence, 16 bit mono. */
function silence(samples: number, rate: number): Buffer {
  const bytes = Buffer.alloc(44 + samples * 2);
  bytes.write('RIFF', 0);
  bytes.writeUInt32LE(36 + samples * 2, 4);
  bytes.write('WAVEfmt ', 8);
  bytes.writeUInt32LE(16, 16);
  bytes.writeUInt16LE(1, 20);
  bytes.writeUInt16LE(1, 22);
  bytes.writeUInt32LE(rate, 24);
  bytes.writeUInt32LE(rate * 2, 28);
  bytes.writeUInt16LE(2, 32);
  bytes.writeUInt16LE(16, 34);
  bytes.write('data', 36);
  bytes.writeUInt32LE(samples * 2, 40);
  return bytes;
}

test('a proposed brief already says what it comes to', async ({ page, application }) => {
  const folder = path.join(application.shots, 'orr_090');
  writeSequence(folder, 1001, 1048, (frame) => `beauty/orr_090_beauty.${frame}.png`);
  mkdirSync(path.join(folder, 'sound'));
  writeFileSync(path.join(folder, 'sound', 'long.wav'), silence(120_000, 48_000));
  writeFileSync(path.join(folder, 'sound', 'cut.wav'), silence(120_000, 48_000).subarray(0, 5000));
  await page.goto('/shots/new');
  await page.getByRole('button', { name: 'orr_090' }).click();
  await expect(page.getByRole('button', { name: 'beauty' })).toBeVisible();
  await page.getByRole('button', { name: 'Use this folder' }).click();
  await expect(sums(page)).toContainText('2.000 s');
  await expect(sums(page)).toContainText('beauty/orr_090_beauty.1048.png');
  await page.getByRole('button', { name: 'Save and count' }).click();
  await expect(page).toHaveURL(/\/shots\/1\/tally$/);
  // Pictures of noise alone: the last is so like the first that it is to be looked at.
  await expect(page.getByTestId('sound')).toHaveText('47');
  await expect(page.getByTestId('odd')).toContainText('1');
});

test('range, start, frames, seconds and timecode are kept in step while one of them is typed', async ({ page }) => {
  await page.goto('/shots/1/brief');
  await expect(field(page, 'Timecode')).toHaveValue('00:00:02:00');
  await field(page, 'Seconds').fill('4');
  await expect(field(page, 'Frame range')).toHaveValue('1001-1096');
  await expect(field(page, 'Frames')).toHaveValue('96');
  await field(page, 'Start').fill('1');
  await expect(field(page, 'Frame range')).toHaveValue('1-96');
  await field(page, 'Timecode').fill('00:00:01:00');
  await expect(field(page, 'Frame range')).toHaveValue('1-24');
  await field(page, 'Frame rate').fill('30000/1001');
  await expect(field(page, 'Timecode')).toHaveValue('00:00:00:24');
  await field(page, 'Frame range').fill('5-10,20');
  await expect(field(page, 'Frames')).toHaveValue('');
  // Undo takes back step by step what was typed.
  for (let i = 0; i < 12; i++) await page.keyboard.press('Control+z');
  await expect(field(page, 'Frame range')).toHaveValue('1001-1048');
  await expect(page.getByRole('button', { name: 'Save and count again' })).toBeDisabled();
});

for (const [what, enter, code, sum] of told) {
  test(`the brief speaks of ${what}`, async ({ page }) => {
    await page.goto('/shots/1/brief');
    await unfold(page);
    await expect(sums(page).getByText('2.000 s')).toBeVisible();
    await expect(page.getByRole('button', { name: 'Undo' })).toBeDisabled();
    await enter(page);
    const advice = sums(page).locator(`[data-advice="${code}"]`);
    await expect(advice).toHaveCount(1);
    await expect(advice).toContainText(sum);
  });
}

test('drop-frame timecodes are told where the rate has them', async ({ page }) => {
  await page.goto('/shots/1/brief');
  await expect(page.getByLabel('drop')).toHaveCount(0);
  await field(page, 'Frame rate').fill('29.97');
  await page.getByLabel('drop').check();
  await field(page, 'Frame range').fill('1-17982');
  await expect(field(page, 'Timecode')).toHaveValue('00:10:00;00');
  await field(page, 'Timecode').fill('00:01:00;02');
  await expect(field(page, 'Frames')).toHaveValue('1800');
  await expect(sums(page)).toContainText('00:01:00;02');
  await field(page, 'Timecode').fill('00:01:00;00');
  await expect(page.getByText('drop-frame leaves the first 2 labels of this minute out')).toBeVisible();
  await expect(field(page, 'Frames')).toHaveValue('1800');
});

test('test frames are rendered on the spot, fitted, and kept with the brief', async ({ page }) => {
  await page.goto('/shots/1/brief');
  const measuring = page.getByRole('group', { name: 'Measure test frames' });
  await measuring.getByLabel('At samples').fill('2 x');
  await measuring.getByRole('button', { name: 'Render and measure' }).click();
  await expect(page.getByText('Write two or more numbers of samples')).toBeVisible();
  await measuring.getByLabel('At samples').fill('2 8');
  await measuring.getByRole('button', { name: 'Render and measure' }).click();
  await page.getByRole('button', { name: 'Use these' }).click();
  await expect(page.getByLabel('Samples of test frame 2')).toHaveValue('8');
  await expect(page.getByLabel('Noise of test frame 1')).not.toHaveValue('');
  await expect(page.getByLabel('Seconds of test frame 1')).not.toHaveValue('');
  await expect(page.getByTestId('cost')).toContainText('of machine time');
  await page.getByRole('button', { name: 'Undo' }).click();
  await expect(page.getByLabel('Samples of test frame 2')).toHaveCount(0);
});

test('test frames in a folder that are none say so', async ({ page }) => {
  await page.goto('/shots/1/brief');
  await page.getByRole('button', { name: 'Measure from a folder…' }).click();
  const dialog = page.getByRole('dialog');
  await dialog.getByRole('button', { name: 'shots' }).first().click();
  await dialog.getByRole('button', { name: 'orr_090' }).click();
  await dialog.getByRole('button', { name: 'Use this folder' }).click();
  await expect(page.getByText('Its metadata names no number of samples')).toBeVisible();
});

test('a sound that was cut short, or that is none, is told at its field', async ({ page }) => {
  await page.goto('/shots/1/brief');
  await unfold(page);
  for (const [file, says] of [
    ['sound/cut.wav', 'bytes of its sound are missing'],
    ['beauty/orr_090_beauty.1001.png', 'no WAV sound'],
    ['sound/none.wav', 'is not there'],
    ['../secret.wav', 'is not a path inside its folder'],
  ]) {
    await field(page, 'Sound (WAV beside the frames)').fill(file);
    await page.getByRole('button', { name: 'Read length' }).click();
    await expect(page.locator('[data-problem="sound"]')).toContainText(says);
  }
});

test('all passes are named from a template, and a template that leads out of the folder is refused', async ({ page }) => {
  await page.goto('/shots/1/brief');
  await field(page, 'Version').fill('v007');
  await page.getByRole('button', { name: 'Name all passes' }).click();
  await expect(page.getByLabel('Name pattern of beauty')).toHaveValue('beauty/orr_090_v007_beauty.####.exr');
  await page.getByLabel('Naming').fill('../{shot}.####.exr');
  await page.getByRole('button', { name: 'Name all passes' }).click();
  await expect(page.getByText('it climbs out of the folder')).toBeVisible();
  await page.getByLabel('Naming').fill('{shot}_{take}.####.exr');
  await page.getByRole('button', { name: 'Name all passes' }).click();
  await expect(page.getByText('there is no token {take}')).toBeVisible();
  await expect(page.getByLabel('Name pattern of beauty')).toHaveValue('beauty/orr_090_v007_beauty.####.exr');
});

test('bad entries are told at their fields, nothing is saved and nothing is lost', async ({ page }) => {
  await page.goto('/shots/1/brief');
  await unfold(page);
  for (const [name, value, at, says] of [
    ['Frame range', '1-2000000', 'range', 'more than one shot can hold'],
    ['Frame range', '1-10x-2', 'range', 'step must be 1 or more'],
    ['Frame rate', '0', 'fps', 'nothing moves'],
    ['Cut lasts', 'soon', 'duration', 'seconds are a number'],
    ['Head', '99', 'handles', 'leave no frame of the cut'],
    ['Crop', '0 0 900 900', 'crop', 'beyond the 32 x 18 pixels'],
  ] as const) {
    const entry = field(page, name);
    const before = await entry.inputValue();
    await entry.fill(value);
    await page.getByRole('button', { name: 'Save and count again' }).click();
    await expect(page.locator(`[data-problem="${at}"]`)).toContainText(says);
    await expect(entry).toHaveValue(value);
    await expect(page.getByText('Not saved')).toBeVisible();
    await entry.fill(before);
  }
  await page.reload();
  await expect(field(page, 'Frame range')).toHaveValue('1001-1048');
  await expect(page.getByRole('heading', { level: 1 })).toHaveText('orr_090');
});

test('leaving with unsaved changes asks', async ({ page }) => {
  await page.goto('/shots/1/brief');
  await field(page, 'Frame range').fill('1001-1050');
  let asked = '';
  page.once('dialog', (dialog) => {
    asked = dialog.message();
    void dialog.dismiss();
  });
  await page.getByRole('link', { name: /Handoff/ }).click();
  await expect.poll(() => asked).toContain('not saved');
  await expect(page).toHaveURL(/brief$/);
  page.once('dialog', (dialog) => void dialog.accept());
  await page.getByRole('link', { name: /Handoff/ }).click();
  await expect(page).toHaveURL(/handoff$/);
});

test('versions are kept and compared; the brief goes out and comes in again', async ({ page, application }) => {
  await page.goto('/shots/1/brief');
  await field(page, 'Frame range').fill('1001-1072');
  await field(page, 'Head').fill('8');
  await page.getByRole('button', { name: 'Save and count again' }).click();
  await expect(page.getByText('Saved as version 2')).toBeVisible();
  await page.getByRole('button', { name: 'Versions' }).click();
  const dialog = page.getByRole('dialog', { name: 'Versions of the brief' });
  await expect(dialog.getByRole('row', { name: /range/ })).toContainText('1001-1048');
  await expect(dialog.getByRole('row', { name: /range/ })).toContainText('1001-1072');
  await expect(dialog.getByRole('row', { name: /handles/ })).toContainText('8 0');
  await page.keyboard.press('Escape');

  const [file] = await Promise.all([page.waitForEvent('download'), page.getByRole('link', { name: 'Brief file' }).click()]);
  const brief = JSON.parse(readFileSync(await file.path(), 'utf8'));
  expect(brief).toMatchObject({ shot: 'orr_090', range: '1001-1072', handles: [8, 0] });
  const [csv] = await Promise.all([page.waitForEvent('download'), page.getByRole('link', { name: 'CSV' }).click()]);
  expect(readFileSync(await csv.path(), 'utf8')).toMatch(
    /^pass,role,range,frames,first,last,.*\r\nbeauty,beauty,1001-1072,72,beauty\/orr_090_beauty\.1001\.png/,
  );

  const changed = path.join(application.top, 'changed.json');
  writeFileSync(changed, JSON.stringify({ ...brief, range: '1-9' }));
  await page.getByLabel('Import').setInputFiles(changed);
  await expect(field(page, 'Frame range')).toHaveValue('1-9');
  writeFileSync(changed, JSON.stringify({ ...brief, range: 'x' }));
  await page.getByLabel('Import').setInputFiles(changed);
  await expect(page.getByText(/The brief cannot be used: range/)).toBeVisible();
  await expect(field(page, 'Frame range')).toHaveValue('1-9');
});

test('the order sheet shows the whole order', async ({ page }) => {
  await page.goto('/shots/1/sheet');
  await expect(page.getByRole('row', { name: /beauty/ })).toContainText('orr_090_beauty.1072.png');
  await page.emulateMedia({ media: 'print' });
  await expect(page.getByRole('button', { name: 'Print' })).toBeHidden();
  await expect(page.getByRole('navigation', { name: 'Steps' })).toBeHidden();
});

test('test frames give the cost of the range, and a target to aim at', async ({ page }) => {
  await page.goto('/shots/1/brief');
  await unfold(page);
  await field(page, 'Frame range').fill('1001-1096');
  // noise^2 = 0.4^2 / n and 0.5 + 0.1 n seconds.
  for (const [index, [samples, noise, seconds]] of [
    ['4', '0.2', '0.9'],
    ['16', '0.1', '2.1'],
    ['64', '0.05', '6.9'],
  ].entries()) {
    await page.getByRole('button', { name: 'Add test frame' }).click();
    await page.getByLabel(`Samples of test frame ${index + 1}`).fill(samples);
    await page.getByLabel(`Noise of test frame ${index + 1}`).fill(noise);
    await page.getByLabel(`Seconds of test frame ${index + 1}`).fill(seconds);
  }
  // Machine time of 96 frames, row by row.
  await expect(page.getByTestId('row-cost')).toHaveText(['86 s', '3 min', '11 min']);
  await field(page, 'Noise').fill('0.02');
  const cost = page.getByTestId('cost');
  await expect(cost).toContainText('For noise 0.02 400 samples');
  await expect(page.getByText('6.3 x beyond the samples that were measured')).toBeVisible();
  await expect(page.getByRole('img', { name: 'Noise and seconds a frame over samples' }).locator('svg')).toBeVisible();
  // Where a step of the slider is less than a sample, keys take a whole one.
  const aim = page.getByLabel('Samples to aim at');
  await aim.fill('2');
  await aim.press('ArrowRight');
  await expect(page.getByRole('button', { name: 'Order 5 samples' })).toBeVisible();
  await aim.press('ArrowDown');
  await aim.press('ArrowLeft');
  await expect(page.getByRole('button', { name: 'Order 3 samples' })).toBeVisible();
  await aim.fill('8');
  await expect(cost).toContainText('A frame 26.1 s');
  await expect(cost).toContainText('The range 42 min');
  await page.getByLabel('Machines').fill('4');
  await expect(cost).toContainText('in 10 min');
  await page.getByRole('button', { name: 'Order 256 samples' }).click();
  await expect(field(page, 'Minimum samples')).toHaveValue('256');
  await page.getByLabel('Samples of test frame 1').fill('1.5');
  await page.getByRole('button', { name: 'Save and count again' }).click();
  await expect(page.getByText('Samples are whole.')).toBeVisible();
  await page.getByLabel('Samples of test frame 1').fill('4');
  await page.getByRole('button', { name: 'Save and count again' }).click();
  await expect(page.getByText('Saved as version 3')).toBeVisible();
  await page.reload();
  await expect(page.getByLabel('Noise of test frame 3')).toHaveValue('0.05');
});

test('a delivery specification is saved, followed, and departed from with words', async ({ page }) => {
  await page.goto('/shots/1/brief');
  const delivery = sums(page).getByRole('region', { name: 'Delivery' });
  await delivery.getByRole('button', { name: 'Save as…' }).click();
  const dialog = page.getByRole('dialog', { name: 'Delivery specification' });
  await expect(dialog.getByLabel('Formats')).toHaveValue('png');
  await dialog.getByRole('button', { name: 'Save specification' }).click();
  await expect(dialog.getByText('A specification needs a name.')).toBeVisible();
  await dialog.getByLabel('Name', { exact: true }).fill('Feature');
  await dialog.getByLabel('Digits, least').fill('5');
  await dialog.getByLabel('Roles that must be there').fill('beauty depth');
  await dialog.getByRole('button', { name: 'Save specification' }).click();
  await expect(dialog).toBeHidden();
  await expect(delivery.getByText('There is no depth pass.')).toBeVisible();
  await expect(delivery.getByText('padded to 4 where at least 5 digits')).toBeVisible();
  await page.getByRole('button', { name: 'Save and count again' }).click();
  await expect(page.getByText('Saved as version 4')).toBeVisible();
  await page.reload();
  await expect(delivery.getByLabel('Delivery specification')).toHaveValue('Feature');
});

test('a brief is given to another shot, under its own name and with its own frames', async ({ page, application }) => {
  writeSequence(path.join(application.shots, 'orr_100'), 1001, 1012, (frame) => `beauty/orr_100_beauty.${frame}.png`);
  await page.goto('/shots/new');
  await page.getByRole('button', { name: 'orr_100' }).click();
  await expect(page.getByRole('button', { name: 'beauty' })).toBeVisible();
  await page.getByRole('button', { name: 'Use this folder' }).click();
  await page.getByRole('button', { name: 'Save and count' }).click();
  await expect(page.getByTestId('sound')).toHaveText('12');

  await page.goto('/shots/1/brief');
  await page.getByRole('button', { name: 'Copy brief to shots' }).click();
  const dialog = page.getByRole('dialog', { name: 'Copy this brief to other shots' });
  await dialog.getByLabel(/orr_100/).check();
  await dialog.getByRole('button', { name: 'Show what changes' }).click();
  await expect(dialog.getByRole('row', { name: /sampling/ })).toContainText('256');
  await dialog.getByRole('button', { name: 'Copy to 1 shot' }).click();
  await expect(dialog.getByText('Given to 1 shot')).toBeVisible();
  await page.goto('/shots/2/brief');
  await expect(field(page, 'Frame range')).toHaveValue('1001-1012');
  await expect(page.getByLabel('Name pattern of beauty')).toHaveValue('beauty/orr_100_beauty.####.png');
  await expect(field(page, 'Minimum samples')).toHaveValue('256');
});
