import { decodeSRgb, isAlphaName, type SentPicture } from '@mint-tally/core';
import { CHANNELS, READ_AS, type Drawn, type ReadAs } from './drawn';
import type { ViewSettings } from './view-settings.svelte';

/** Linear light of the backgrounds that have a name: the screen's dark grey, black, white. */
const NAMED = { grey: 0.0319, black: 0, white: 1 } as const;

/** Device pixels of the viewer. */
export interface Screen {
  readonly width: number;
  readonly height: number;
}

/** Device pixels for each pixel of a picture, across and down. */
export function zoomOf({ info }: SentPicture, { zoom, pixelAspect }: ViewSettings, { width, height }: Screen): readonly [number, number] {
  const [left, top, right, bottom] = info.displayWindow;
  const aspect = pixelAspect ? info.pixelAspect : 1;
  const fitted = Math.min(width / ((right - left + 1) * aspect), height / (bottom - top + 1));
  const down = zoom ?? Math.max(fitted, 1 / 64);
  return [down * aspect, down];
}

/** Where the corner of a picture's display window lies on the screen. Whole pixels, so that at 100 % each is one of the screen's. */
export function panOf({ info }: SentPicture, { centre }: ViewSettings, { width, height }: Screen, [across, down]: readonly [number, number]): [number, number] {
  const [left, top, right, bottom] = info.displayWindow;
  return [Math.round(width / 2 - centre[0] * (right - left + 1) * across), Math.round(height / 2 - centre[1] * (bottom - top + 1) * down)];
}

/** Whether the last channel is an alpha. */
export function hasAlpha({ info }: SentPicture): boolean {
  return (info.channels.length === 2 || info.channels.length === 4) && isAlphaName(info.channels.at(-1)!);
}

function linearOf(colour: string): readonly [number, number, number] {
  const part = (at: number) => decodeSRgb(Number.parseInt(colour.slice(at, at + 2), 16) / 255);
  return [part(1), part(3), part(5)];
}

/** What the shader is told. */
export function drawnOf(
  picture: SentPicture,
  settings: ViewSettings,
  screen: Screen,
  { readAs, range, straight }: { readAs: ReadAs; range: readonly [number, number]; straight: boolean },
): Drawn {
  const zoom = zoomOf(picture, settings, screen);
  const { background } = settings;
  const grey = background === 'grey' || background === 'black' || background === 'white' ? NAMED[background] : 0;
  return {
    look: settings.look,
    mode: READ_AS[readAs],
    channel: CHANNELS[settings.channel],
    range,
    hasAlpha: hasAlpha(picture),
    falseColour: settings.falseColour,
    markRange: settings.markRange,
    background: background === 'check' || background === 'none' ? background : background === 'colour' ? linearOf(settings.colour) : [grey, grey, grey],
    straight,
    outlines: settings.outlines,
    pan: panOf(picture, settings, screen, zoom),
    zoom,
  };
}
