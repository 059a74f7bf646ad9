import AxeBuilder from '@axe-core/playwright';
import type { Page } from '@playwright/test';
import { expect } from './application.ts';

/**
 * Holds a page against WCAG 2 A and AA, contrast included.
 *
 * @param where said with what is found
 * @param contrastAlone whether only contrast is looked at: in another theme only tones are others
 */
export async function expectAccessible(page: Page, where = '', contrastAlone = false): Promise<void> {
  // A page of ours has no frames of others, for which alone a second page would be opened; and nobody reads what is well.
  const axe = new AxeBuilder({ page }).setLegacyMode(true).options({ resultTypes: ['violations'] });
  const { violations } = await (contrastAlone ? axe.withRules(['color-contrast']) : axe.withTags(['wcag2a', 'wcag2aa', 'wcag21a', 'wcag21aa'])).analyze();
  expect(
    violations.map(({ id, nodes }) => `${id}: ${nodes.map((node) => node.html.slice(0, 160)).join(' | ')}`),
    where,
  ).toEqual([]);
}
