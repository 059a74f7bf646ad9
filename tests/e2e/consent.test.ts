import { rmSync } from 'node:fs';
import path from 'node:path';
import type { Database } from '@mint-tally/store';
import type { Locator, Page } from '@playwright/test';
import { writeSequence } from '../support/frames.ts';
import { expect, test } from './application.ts';
import { databaseOf, decisions, makeShot, untilQuiet } from './asking.ts';

test.use({ instance: 'consent', writable: true });
test.describe.configure({ mode: 'serial' });

let database: Database;

const briefOf = (shot: string, last = 1006) => ({
  shot,
  range: `1001-${last}`,
  resolution: [32, 18],
  passes: [{ name: 'beauty', pattern: `${shot}_beauty.####.png` }],
});

test.beforeAll(async ({ application, request }) => {
  database = databaseOf(application);
  for (const shot of ['orr_010', 'orr_020']) {
    const folder = path.join(application.shots, shot);
    writeSequence(folder, 1001, 1006, (frame) => `${shot}_beauty.${frame}.png`);
    rmSync(path.join(folder, `${shot}_beauty.1003.png`));
    await makeShot(request, application, shot, briefOf(shot));
  }
  await untilQuiet(database);
  await database.change("INSERT INTO specifications (project_id, name, body, saved_at, actor) VALUES (1, 'house', '{\"name\":\"house\"}', NOW(), 'ada')");
  const [{ body }] = await database.rows('SELECT body FROM briefs WHERE shot_id = 1');
  await database.change(
    "INSERT INTO briefs (shot_id, version, body, created_at, actor) VALUES (1, 2, JSON_SET(?, '$.range', '1001-1005', '$.follows', 'house'), NOW(), 'ada')",
    [body as string],
  );
  // A count against the newest brief, so that gates can be closed.
  await database.change('UPDATE tallies SET brief_id = (SELECT id FROM briefs WHERE shot_id = 1 AND version = 2) WHERE shot_id = 1');
});
test.afterAll(() => database.close());

interface Asked {
  /** How it is opened; the page is at its screen already. */
  readonly open: (page: Page) => Promise<void>;
  readonly screen: string;
  /** Fills in all that its main button would need. */
  readonly fill?: (dialog: Locator) => Promise<void>;
  /** What the button says that leaves. */
  readonly leave: string;
  /** The entry in which Enter is pressed with something missing, and what is then said. */
  readonly missing?: { readonly entry: (dialog: Locator) => Locator; readonly says: RegExp };
}

const press = (name: string | RegExp) => async (page: Page) => page.getByRole('button', { name }).first().click();
const nameAndReason = async (dialog: Locator) => {
  await dialog.getByLabel('Your name').fill('Ada Ferrow');
  await dialog.getByLabel('Why it is fine').fill('Cut in the edit.');
};
const nameEmpty = { entry: (dialog: Locator) => dialog.getByLabel('Your name'), says: /A name is needed/ };

const dialogs: Record<string, Asked> = {
  'waiving a finding': {
    screen: '/shots/1/tally',
    open: async (page) => {
      const finding = page.getByRole('complementary', { name: 'Docket' }).getByRole('button', { name: /Frames missing/ });
      if ((await finding.getAttribute('aria-expanded')) !== 'true') await finding.click();
      await press('Waive…')(page);
    },
    fill: nameAndReason,
    leave: 'Cancel',
    missing: nameEmpty,
  },
  'waiving what holds a gate open': { screen: '/shots/1/handoff', open: press('Waive…'), fill: nameAndReason, leave: 'Cancel', missing: nameEmpty },
  'closing gates by hand': {
    screen: '/shots/1/handoff',
    open: press(/Sign off: passes, noise, eyes/),
    fill: nameAndReason,
    leave: 'Cancel',
    missing: nameEmpty,
  },
  'giving a brief to shots': {
    screen: '/shots/1/brief',
    open: press('Copy brief to shots'),
    fill: async (dialog) => {
      if (await dialog.getByLabel('orr_020').isVisible()) {
        await dialog.getByLabel('orr_020').check();
        await dialog.getByRole('button', { name: 'Show what changes' }).click();
      }
      await expect(dialog.getByRole('button', { name: 'Copy to 1 shot' })).toBeVisible();
    },
    leave: 'Close',
    missing: { entry: (dialog) => dialog.getByLabel('They keep their own frames'), says: /Choose the shots first/ },
  },
  'a delivery specification': {
    screen: '/shots/1/brief',
    open: press('Change…'),
    fill: (dialog) => dialog.getByLabel('Name', { exact: true }).fill('another'),
    leave: 'Cancel',
    missing: { entry: (dialog) => dialog.getByLabel('Name', { exact: true }), says: /name/i },
  },
  'deleting a specification': { screen: '/shots/1/brief', open: press('Delete…'), leave: 'Cancel' },
  'versions of a brief': { screen: '/shots/1/brief', open: press('Versions'), leave: 'Close' },
  'deleting a shot': {
    screen: '/shots/1/brief',
    open: press('Delete shot…'),
    fill: (dialog) => dialog.getByLabel('Name of the shot').fill('orr_010'),
    leave: 'Cancel',
    missing: { entry: (dialog) => dialog.getByLabel('Name of the shot'), says: /Write orr_010/ },
  },
  'a folder to merge': { screen: '/shots/1/batch/merge', open: press('Add a folder…'), leave: 'Cancel' },
  'a folder of test frames': { screen: '/shots/1/brief', open: press('Measure from a folder…'), leave: 'Cancel' },
  'the keys': { screen: '/shots/1/tally', open: (page) => page.keyboard.press('?'), leave: 'Close' },
};

for (const [name, { screen, open, fill, leave, missing }] of Object.entries(dialogs)) {
  test(`${name}: leaving, Escape and a click beside it change nothing`, async ({ page }) => {
    await page.goto(screen);
    const before = await decisions(database);
    const dialog = page.getByRole('dialog');
    const ways: readonly (() => Promise<void>)[] = [
      () => dialog.getByRole('button', { name: leave, exact: true }).click(),
      () => page.keyboard.press('Escape'),
      () => page.mouse.click(4, 400),
      () => dialog.getByRole('button', { name: leave, exact: true }).press('Enter'),
      () => dialog.getByRole('button', { name: leave, exact: true }).press(' '),
    ];
    for (const go of ways) {
      await open(page);
      await expect(dialog).toBeVisible();
      await fill?.(dialog);
      await go();
      await expect(dialog).toBeHidden();
      expect(await decisions(database)).toBe(before);
    }
    // What was sent by mistake may be on its way still.
    await page.waitForTimeout(300);
    expect(await decisions(database)).toBe(before);
  });

  if (missing) {
    test(`${name}: Enter with something missing says what, and changes nothing`, async ({ page }) => {
      await page.goto(screen);
      const before = await decisions(database);
      await open(page);
      const dialog = page.getByRole('dialog');
      const entry = missing.entry(dialog);
      if ((await entry.getAttribute('type')) !== 'checkbox') await entry.fill('');
      await entry.press('Enter');
      await expect(dialog.getByText(missing.says).last()).toBeVisible();
      await expect(dialog).toBeVisible();
      expect(await decisions(database)).toBe(before);
    });
  }
}

test('waiving frames that are not there is asked a second time, in words, and saved with the second yes', async ({ page }) => {
  await page.goto('/shots/1/handoff');
  await page.getByRole('button', { name: 'Waive…' }).click();
  const dialog = page.getByRole('dialog');
  await nameAndReason(dialog);
  const before = await decisions(database);
  await dialog.getByLabel('Your name').press('Enter');
  await expect(dialog.getByRole('alert')).toContainText('1 ordered frame of beauty has no file: 1003.');
  expect(await decisions(database)).toBe(before);
  await dialog.getByRole('button', { name: 'Cancel' }).click();
  expect(await decisions(database)).toBe(before);

  // Asked anew, it is asked twice anew.
  await page.getByRole('button', { name: 'Waive…' }).click();
  await expect(dialog.getByLabel('Why it is fine')).toHaveValue('');
  await nameAndReason(dialog);
  await dialog.getByRole('button', { name: 'Waive' }).click();
  await dialog.getByRole('button', { name: 'Waive all the same' }).click();
  await expect(dialog).toBeHidden();
  await expect(page.locator('[data-gate="count"]')).toHaveAttribute('data-state', 'waived');
});

test('a request that skips the second question is refused', async ({ page, application }) => {
  const subject = { kind: 'finding', code: 'missing-frame', pass: 'beauty', detail: '', frames: '1001-1006', files: [] };
  const answer = await page.request.post(`${application.address}/shots/2/tally?/waive`, {
    headers: { origin: application.address, accept: 'application/json' },
    form: { subjects: JSON.stringify([subject]), person: 'Ada', reason: 'all fine', givenUp: '[]' },
  });
  expect(await answer.json()).toMatchObject({ type: 'failure', status: 409 });
  expect(await database.rows('SELECT id FROM waivers WHERE shot_id = 2')).toEqual([]);
});

test('an earlier version is restored as a new one', async ({ page }) => {
  await page.goto('/shots/1/brief');
  await expect(page.getByLabel('Frame range')).toHaveValue('1001-1005');
  await page.getByRole('button', { name: 'Versions' }).click();
  await page.getByRole('button', { name: 'Restore v1 as v3' }).click();
  await expect(page.getByRole('dialog')).toBeHidden();
  await expect(page.getByLabel('Frame range')).toHaveValue('1001-1006');
  await expect(page.getByText('brief v3')).toBeVisible();
  await page.getByRole('button', { name: 'Undo' }).click();
  await expect(page.getByLabel('Frame range')).toHaveValue('1001-1005');
  await page.getByRole('button', { name: 'Redo' }).click();
  await untilQuiet(database);
  const versions = await database.rows("SELECT version, JSON_VALUE(body, '$.range') AS brief_range FROM briefs WHERE shot_id = 1 ORDER BY version");
  expect(versions.map((row) => row.brief_range)).toEqual(['1001-1006', '1001-1005', '1001-1006']);
});

test('giving a brief to shots shows what changes in each, and is refused when that has changed since', async ({ page }) => {
  await page.goto('/shots/1/brief');
  await page.getByRole('button', { name: 'Copy brief to shots' }).click();
  const dialog = page.getByRole('dialog');
  await dialog.getByLabel('They keep their own frames').uncheck();
  await dialog.getByLabel('orr_020').check();
  await database.change("UPDATE briefs SET body = JSON_SET(body, '$.range', '1001-1100') WHERE shot_id = 2");
  await dialog.getByRole('button', { name: 'Show what changes' }).click();
  const row = dialog.getByRole('row', { name: /range/ });
  await expect(row).toContainText('1001-1100');
  await expect(row).toContainText('1001-1006');

  const [{ body }] = await database.rows('SELECT body FROM briefs WHERE shot_id = 2');
  await database.change('INSERT INTO briefs (shot_id, version, body, created_at, actor) VALUES (2, 2, ?, NOW(), ?)', [body as string, 'somebody else']);
  await dialog.getByRole('button', { name: 'Copy to 1 shot' }).click();
  await expect(dialog.getByText('has changed since you looked; nothing was given')).toBeVisible();
  await dialog.getByRole('button', { name: 'Choose other shots' }).click();
  await dialog.getByRole('button', { name: 'Show what changes' }).click();
  await dialog.getByRole('button', { name: 'Copy to 1 shot' }).click();
  await expect(dialog.getByText('Given to 1 shot')).toBeVisible();
  await untilQuiet(database);
  const [given] = await database.rows("SELECT version, JSON_VALUE(body, '$.range') AS brief_range FROM briefs WHERE shot_id = 2 ORDER BY version DESC LIMIT 1");
  expect(given).toMatchObject({ version: 3, brief_range: '1001-1006' });
});

test('a specification is deleted after it was said who follows it', async ({ page }) => {
  await page.goto('/shots/1/brief');
  await page.getByLabel('Delivery specification').selectOption('house');
  await page.getByRole('button', { name: 'Save and count again' }).click();
  await expect(page.getByText(/Saved as version/)).toBeVisible();
  await page.getByRole('button', { name: 'Delete…' }).click();
  const dialog = page.getByRole('dialog');
  await expect(dialog.getByText('1 shot follows it: orr_010.')).toBeVisible();
  await dialog.getByRole('button', { name: 'Delete specification' }).click();
  await expect(page.getByLabel('Delivery specification')).toHaveValue('house');
  await expect(page.getByLabel('Delivery specification')).toContainText('house (not saved here)');
  expect(await database.rows('SELECT name FROM specifications')).toEqual([]);
});

test('a shot is deleted with what hangs on it, which is said before; its frames stay', async ({ page, application }) => {
  await page.goto('/shots/2/brief');
  await page.getByLabel('Frame range').fill('1001-1003');
  await page.getByRole('button', { name: 'Delete shot…' }).click();
  const dialog = page.getByRole('dialog');
  await expect(dialog.getByText('3 brief versions, 2 counts')).toBeVisible();
  await dialog.getByLabel('Name of the shot').fill('orr_020');
  await dialog.getByRole('button', { name: 'Delete shot' }).click();
  await expect(page).toHaveURL(`${application.address}/`);
  await expect(page.getByRole('row', { name: /orr_010/ })).toBeVisible();
  await expect(page.getByRole('row', { name: /orr_020/ })).toBeHidden();
  expect(await database.rows('SELECT id FROM briefs WHERE shot_id = 2')).toEqual([]);
  rmSync(path.join(application.shots, 'orr_020', 'orr_020_beauty.1001.png'));
});
