import { viewTransforms } from '@mint-tally/core';
import type { Comparison, ViewSettings } from './view-settings.svelte';
import type { Viewing } from './viewing.svelte';

/** The viewer's own keys, for the list that is shown on request. */
export const viewKeyList: readonly (readonly [keys: string, does: string])[] = [
  ['P, Space', 'play, or stop'],
  ['Shift + P', 'play backwards'],
  ['E, Shift + E', 'half a stop brighter, or darker'],
  ['G, Shift + G', 'more gamma, or less'],
  ['V', 'the next view: sRGB, Rec. 709, linear, log'],
  ['A', 'the alpha alone, or the colours again'],
  ['Y', 'luminance alone, or the colours again'],
  ['H', 'false colours, a stop each'],
  ['O', 'mark what is above 1 and below 0'],
  ['W', 'outline of the data window'],
  ['K', 'the noise of each part, and fireflies, over the picture'],
  ['D, S, X', 'compare: the difference, a split, the other one alone'],
  ['F, 1, 2', 'the whole picture, 100 %, 200 %'],
  ['Z', 'the pixel under the pointer, so large that values stand in it'],
  ['U', 'the sheet: frames side by side'],
  ['Q', 'mark a region: then drag in the picture'],
  ['J', 'pin a note to the frame, or to the selection'],
  ['T', 'the ordered rate again'],
  ['M', 'mute the sound'],
  ['L', 'play what is left to be watched, at the ordered rate and 100 %'],
  ['R', 'all that was turned back to how the picture is'],
];

/** Does what a key asks of the viewer; false when it asks nothing. */
export function pressViewKey(viewing: Viewing, event: KeyboardEvent): boolean {
  if (event.ctrlKey || event.metaKey || event.altKey) return false;
  const { settings } = viewing;
  const back = event.shiftKey;
  // Capitals may come from Caps Lock: whether the other way is meant, Shift says.
  switch (event.key.toLowerCase()) {
    case ' ':
      // A focused button or link is pressed by it.
      if (event.target instanceof HTMLElement && event.target.closest('button, a, summary')) return false;
      viewing.toggle();
      return true;
    case 'p':
      viewing.toggle(back ? -1 : 1);
      return true;
    case 'e':
      settings.turnExposure(back ? -0.5 : 0.5);
      return true;
    case 'g':
      settings.turnGamma(back ? -0.1 : 0.1);
      return true;
    case 'v':
      settings.transform = viewTransforms[(viewTransforms.indexOf(settings.transform) + 1) % viewTransforms.length]!;
      return true;
    case 'a':
      settings.channel = settings.channel === 'alpha' ? 'all' : 'alpha';
      return true;
    case 'y':
      settings.channel = settings.channel === 'luminance' ? 'all' : 'luminance';
      return true;
    case 'h':
      settings.falseColour = !settings.falseColour;
      return true;
    case 'o':
      settings.markRange = !settings.markRange;
      return true;
    case 'w':
      settings.outlines = !settings.outlines;
      return true;
    case 'k':
      settings.noise = !settings.noise;
      return true;
    case 'd':
      compare(settings, 'difference');
      return true;
    case 's':
      compare(settings, 'split');
      return true;
    case 'x':
      compare(settings, 'other');
      return true;
    case 'f':
      settings.zoom = null;
      settings.centre = [0.5, 0.5];
      return true;
    case '1':
    case '2':
      settings.zoom = Number(event.key);
      return true;
    case 'z':
      viewing.zoomToPixels();
      return true;
    case 'q':
      viewing.marking = !viewing.marking;
      return true;
    case 'j':
      viewing.stop();
      viewing.noting = true;
      return true;
    case 't':
      viewing.trial = null;
      viewing.restart();
      return true;
    case 'm':
      viewing.sound.toggleMute();
      return true;
    case 'l':
      viewing.watching.goOn();
      return true;
    case 'r':
      settings.reset();
      return true;
    default:
      // Any other movement of the playhead is made by a person: the picture stands where it was put.
      if (['ArrowLeft', 'ArrowRight', 'Home', 'End', 'PageUp', 'PageDown'].includes(event.key)) viewing.stop();
      return false;
  }
}

/** Compares in a way; pressed again, with nothing. What it was compared with last is kept; the next frame at first. */
function compare(settings: ViewSettings, way: Comparison): void {
  if (settings.against !== '' && settings.compareAs === way) {
    settings.lastAgainst = settings.against;
    settings.against = '';
    return;
  }
  settings.compareAs = way;
  if (settings.against === '') settings.against = settings.lastAgainst;
}
