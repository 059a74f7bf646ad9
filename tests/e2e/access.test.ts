import { mkdirSync, rmSync, truncateSync } from 'node:fs';
import path from 'node:path';
import { writeSequence } from '../support/frames.ts';
import { expectAccessible } from './accessible.ts';
import { expect, test } from './application.ts';

test.use({ instance: 'access' });
test.describe.configure({ mode: 'serial' });

test('a shot is made with the keyboard alone', async ({ page, application }) => {
  const folder = path.join(application.shots, 'night', 'orr_080');
  writeSequence(folder, 1001, 1008, (frame) => `beauty/orr_080_beauty.${frame}.png`);
  mkdirSync(path.join(application.shots, 'other'));
  rmSync(path.join(folder, 'beauty/orr_080_beauty.1003.png'));
  truncateSync(path.join(folder, 'beauty/orr_080_beauty.1006.png'), 0);

  await page.goto('/');
  await page.getByRole('main').getByRole('link', { name: 'New shot' }).press('Enter');
  await page.getByRole('button', { name: 'night' }).focus();
  await page.keyboard.press('ArrowDown');
  await expect(page.getByRole('button', { name: 'other' })).toBeFocused();
  await page.keyboard.press('ArrowUp');
  await page.keyboard.press('Enter');
  await expect(page.getByRole('button', { name: 'orr_080' })).toBeVisible();
  await page.keyboard.press('ArrowDown');
  await expect(page.getByRole('button', { name: 'orr_080' })).toBeFocused();
  await page.keyboard.press('Backspace');
  await expect(page.getByRole('button', { name: 'other' })).toBeVisible();
  await page.getByRole('button', { name: 'night' }).press('Enter');
  await page.getByRole('button', { name: 'orr_080' }).press('Enter');
  await expect(page.getByRole('button', { name: 'beauty' })).toBeVisible();
  await page.getByRole('button', { name: 'Use this folder' }).press('Enter');
  await page.getByRole('textbox', { name: 'Frame range' }).press('Enter');
  await expect(page).toHaveURL(/\/shots\/1\/tally$/);
  await expect(page.getByTestId('sound')).toHaveText('6');
});

test('the tally is walked with the keyboard alone', async ({ page }) => {
  await page.goto('/shots/1/tally');
  const playhead = page.getByRole('slider', { name: 'Playhead' });
  await expect(playhead).toHaveAttribute('aria-valuetext', 'Frame 1001. beauty sound');
  // The page is alive when it has asked for the frame.
  await expect(page.getByRole('button', { name: 'Copy path' })).toBeVisible();
  await page.keyboard.press('n');
  await expect(playhead).toHaveAttribute('aria-valuetext', 'Frame 1003. beauty missing');
  await page.keyboard.press('n');
  await expect(playhead).toHaveAttribute('aria-valuetext', 'Frame 1006. beauty broken');
  await page.keyboard.press('n');
  await expect(playhead).toHaveAttribute('aria-valuenow', '1006');
  await page.keyboard.press('Shift+End');
  await page.keyboard.press('c');
  await expect.poll(() => page.evaluate(() => navigator.clipboard.readText())).toBe('1006-1008');
  const finding = page.getByRole('complementary', { name: 'Docket' }).getByRole('button', { name: /Empty files/ });
  await finding.press('Enter');
  await expect(finding).toHaveAttribute('aria-expanded', 'true');
  await page.getByRole('button', { name: 'Waive…' }).press('Enter');
  await expect(page.getByLabel('Your name')).toBeFocused();
  // Keys that are typed into a dialog move nothing behind it.
  await page.keyboard.type('nnbb');
  await page.keyboard.press('Escape');
  await expect(page.getByRole('dialog')).toBeHidden();
  await expect(playhead).toHaveAttribute('aria-valuenow', '1006');
});

for (const theme of ['dark', 'light'] as const) {
  test(`lists, a tally, a dialog and what is not there meet WCAG AA in the ${theme} theme`, async ({ page, context, baseURL }) => {
    await context.addCookies([{ name: 'theme', value: theme, url: baseURL }]);
    // Every other screen is held against it in all-screens, in both themes as well.
    for (const address of ['/', '/shots/1/tally', '/shots/999/tally']) {
      await page.goto(address);
      await page.waitForLoadState('load');
      if (address.endsWith('1/tally')) await page.getByRole('button', { name: /Frames missing/ }).click();
      await page.waitForTimeout(300);
      await expectAccessible(page);
    }
    await page.goto('/shots/1/tally');
    await page.getByRole('button', { name: /Frames missing/ }).click();
    await page.getByRole('button', { name: 'Waive…' }).click();
    await page.waitForTimeout(300);
    await expectAccessible(page);
  });
}

test('the theme that was chosen comes back with the next page, without a flash', async ({ page, request, context }) => {
  await page.goto('/');
  await page.getByRole('button', { name: 'Light theme' }).click();
  await expect(page.locator('html')).toHaveAttribute('data-theme', 'light');
  await expect.poll(async () => (await context.cookies()).find((cookie) => cookie.name === 'theme')?.value).toBe('light');
  const html = await (await request.get('/', { headers: { cookie: 'theme=light' } })).text();
  expect(html).toContain('data-theme="light"');
  expect(await (await request.get('/', { headers: { cookie: 'theme=%22%3E%3Cscript%3E' } })).text()).toContain('data-theme="dark"');
});
