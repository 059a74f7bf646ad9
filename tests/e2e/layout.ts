import type { Page } from '@playwright/test';

/** Sizes at which every screen must work, in CSS pixels: two windows, one of them at 125 % and at 200 %, and a large one. */
export const sizes = [
  { name: '1024 x 700', width: 1024, height: 700 },
  { name: '1280 x 800 at 125 %', width: 1024, height: 640 },
  { name: '1280 x 800 at 200 %', width: 640, height: 400 },
  { name: '1920 x 1080', width: 1920, height: 1080 },
] as const;

/**
 * Looks for what is wrong with how a page lies: a page that scrolls sideways, a control that lies over another, a control
 * or a text that is cut off. What lies in a box that scrolls is looked at as far as it is in sight.
 *
 * @returns one line for each fault
 */
export function layoutFaults(page: Page): Promise<string[]> {
  return page.evaluate(() => {
    const faults: string[] = [];
    const root = document.scrollingElement!;
    if (root.scrollWidth > root.clientWidth) faults.push(`the page is ${root.scrollWidth} pixels wide in a window of ${root.clientWidth}`);
    const name = (element: Element) =>
      `${element.tagName.toLowerCase()} “${(element.getAttribute('aria-label') ?? element.textContent ?? '').trim().replace(/\s+/g, ' ').slice(0, 40) || element.id}”`;
    const isShown = (element: Element) => element.checkVisibility({ opacityProperty: true, visibilityProperty: true }) && !element.closest('.sr-only, [inert]');

    /** What of an element is in sight, cut by every box around it that clips; null when nothing is. */
    function inSight(element: Element): { left: number; top: number; right: number; bottom: number } | null {
      let { left, top, right, bottom } = element.getBoundingClientRect();
      for (let box = element.parentElement; box && box !== document.documentElement; box = box.parentElement) {
        const { overflowX, overflowY } = getComputedStyle(box);
        const around = box.getBoundingClientRect();
        if (overflowX !== 'visible') [left, right] = [Math.max(left, around.left), Math.min(right, around.right)];
        if (overflowY !== 'visible') [top, bottom] = [Math.max(top, around.top), Math.min(bottom, around.bottom)];
      }
      return right - left > 1 && bottom - top > 1 ? { left, top, right, bottom } : null;
    }

    const controls = [...document.querySelectorAll('a[href], button, input:not([type=hidden]), select, textarea, summary, [role=slider]')].filter(isShown);
    const seen = controls.flatMap((control) => {
      const rect = inSight(control);
      return rect ? [{ control, rect }] : [];
    });
    // A link may be stretched over its whole row: then it lies under what else is in it.
    const isStretched = (control: Element) => getComputedStyle(control, '::after').position === 'absolute';
    for (let i = 0; i < seen.length; i++) {
      for (let k = i + 1; k < seen.length; k++) {
        const [a, b] = [seen[i], seen[k]];
        if (a.control.contains(b.control) || b.control.contains(a.control) || isStretched(a.control) || isStretched(b.control)) continue;
        const across = Math.min(a.rect.right, b.rect.right) - Math.max(a.rect.left, b.rect.left);
        const down = Math.min(a.rect.bottom, b.rect.bottom) - Math.max(a.rect.top, b.rect.top);
        if (across > 2 && down > 2) faults.push(`${name(a.control)} lies over ${name(b.control)}`);
      }
    }
    for (const { control } of seen) {
      const rect = control.getBoundingClientRect();
      for (let box = control.parentElement; box && box !== document.body; box = box.parentElement) {
        const { overflowX } = getComputedStyle(box);
        if (overflowX === 'visible') continue;
        const around = box.getBoundingClientRect();
        const scrolls = overflowX === 'auto' || overflowX === 'scroll';
        if (!scrolls && (rect.left < around.left - 1 || rect.right > around.right + 1)) faults.push(`${name(control)} is cut off at its side`);
        break;
      }
    }
    // Texts: what is wider than its box and neither wraps, scrolls nor ends in an ellipsis.
    for (const element of document.querySelectorAll('h1, h2, h3, p, label, button, a, th, td, dt, dd, legend, span, summary, li')) {
      if (!isShown(element) || !inSight(element) || element.children.length > 0 || (element.textContent ?? '').trim() === '') continue;
      const style = getComputedStyle(element);
      const box = style.display === 'inline' ? element.parentElement! : element;
      const boxStyle = getComputedStyle(box);
      const clips = boxStyle.overflowX === 'hidden' || boxStyle.overflowX === 'clip';
      if (clips && boxStyle.textOverflow !== 'ellipsis' && box.scrollWidth > box.clientWidth + 1) faults.push(`${name(element)} is cut off`);
      // Text that runs out of its own box lies over whatever is beside it.
      const range = document.createRange();
      range.selectNodeContents(element);
      const text = range.getBoundingClientRect();
      const around = box.getBoundingClientRect();
      if (!clips && boxStyle.display !== 'contents' && text.right > around.right + 2 && around.width > 0) faults.push(`${name(element)} runs out of its box`);
    }
    return [...new Set(faults)];
  });
}
