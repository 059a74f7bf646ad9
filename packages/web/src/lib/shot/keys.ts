import type { ShotView } from './shot-view.svelte';

/** The keys of a shot's screens, for the list that is shown on request. */
export const keyList: readonly (readonly [keys: string, does: string])[] = [
  ['\u2190 \u2192', 'one frame back or on'],
  ['Shift + \u2190 \u2192', 'select frames'],
  ['\u2191 \u2193', 'the pass above or below'],
  ['Page Up, Page Down', 'ten frames back or on'],
  ['Home, End', 'the first or the last frame'],
  ['N, B', 'the next frame with trouble, or back to the one before'],
  ['], [', 'the next finding of the docket, or the one before'],
  ['+, -, 0', 'show fewer frames, more, all of them'],
  ['C', 'copy the selection, or the frame, as a range'],
  ['Escape', 'clear the selection'],
  ['?', 'this list'],
];

/** Whether keys typed here belong to what is typed into. */
export function takesText(target: EventTarget | null): boolean {
  return target instanceof HTMLElement && target.closest('input, textarea, select, [role="dialog"], [contenteditable]') !== null;
}

/** What has arrows of its own: tabs, menus, lists, sliders, choices; the playhead's are the screen's. */
const HAS_ARROWS =
  '[role="tab"], [role="tablist"], [role="menu"], [role="menuitem"], [role="menuitemcheckbox"], [role="listbox"], [role="option"], [role="slider"]:not([data-playhead]), [role="radio"]';
const ARROWS: ReadonlySet<string> = new Set(['ArrowLeft', 'ArrowRight', 'ArrowUp', 'ArrowDown', 'Home', 'End', 'PageUp', 'PageDown']);

/** Whether a key belongs to what is focused: a tab or a menu moves by its own arrows, a list that scrolls by its own. */
export function belongsTo(target: EventTarget | null, key: string): boolean {
  if (takesText(target)) return true;
  if (!ARROWS.has(key) || !(target instanceof HTMLElement)) return false;
  return target.closest(HAS_ARROWS) !== null || (target.tabIndex >= 0 && target.matches('ol, ul, [data-scrolls]') && target.scrollHeight > target.clientHeight);
}

/** Keys of one character, which somebody who speaks to the computer sets off unawares: they can be switched off (WCAG 2.1.4). */
export const isCharacterKey = (key: string) => key.length === 1;

/** Does what a key asks of the shot's view; false when it asks nothing. */
export function pressKey(view: ShotView, event: KeyboardEvent, showKeys: () => void): boolean {
  if (view.screenKeys?.press(event)) return true;
  if (event.ctrlKey || event.metaKey || event.altKey) return false;
  const move = (column: number) => (event.shiftKey ? view.extendTo(column) : view.goToColumn(column));
  const last = view.model.frames.length - 1;
  switch (event.key) {
    case 'ArrowLeft':
      move(view.column - 1);
      return true;
    case 'ArrowRight':
      move(view.column + 1);
      return true;
    case 'PageUp':
      move(view.column - 10);
      return true;
    case 'PageDown':
      move(view.column + 10);
      return true;
    case 'Home':
      move(0);
      return true;
    case 'End':
      move(last);
      return true;
    case 'ArrowUp':
      view.stepPass(-1);
      return true;
    case 'ArrowDown':
      view.stepPass(1);
      return true;
    case 'n':
    case 'N':
      view.goToTrouble(1);
      return true;
    case 'b':
    case 'B':
      view.goToTrouble(-1);
      return true;
    case ']':
      view.stepFinding(1);
      return true;
    case '[':
      view.stepFinding(-1);
      return true;
    case '+':
    case '=':
      view.zoom(0.6, view.column + 0.5);
      return true;
    case '-':
      view.zoom(1 / 0.6, view.column + 0.5);
      return true;
    case '0':
      view.window = null;
      return true;
    case 'c':
    case 'C':
      void navigator.clipboard.writeText(view.selectionRange || String(view.frame));
      return true;
    case 'Escape':
      view.clearSelection();
      return true;
    case '?':
      showKeys();
      return true;
    default:
      return false;
  }
}
