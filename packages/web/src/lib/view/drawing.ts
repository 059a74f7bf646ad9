import { decodeSRgb, hasAlpha, valueRangeOf, type SentPicture } from '@mint-tally/core';
import { CHANNELS, READ_AS, type Drawn, type ReadAs, type Side } from './drawn';
import type { Renderer } from './renderer';
import type { StillRenderer } from './still-renderer';
import type { ViewSettings } from './view-settings.svelte';

/** Linear light of the backgrounds that have a name: the screen's dark grey, black, white. */
const NAMED = { grey: 0.0319, black: 0, white: 1 } as const;

/** Device pixels of the viewer. */
export interface Screen {
  readonly width: number;
  readonly height: number;
}

/** Device pixels for each pixel of a picture, across and down. */
export function zoomOf({ info }: Pick<SentPicture, 'info'>, { zoom, pixelAspect }: ViewSettings, { width, height }: Screen): readonly [number, number] {
  const [left, top, right, bottom] = info.displayWindow;
  const aspect = pixelAspect ? info.pixelAspect : 1;
  const fitted = Math.min(width / ((right - left + 1) * aspect), height / (bottom - top + 1));
  const down = zoom ?? Math.max(fitted, 1 / 64);
  return [down * aspect, down];
}

/** Where the corner of a picture's display window lies on the screen. Whole pixels, so that at 100 % each is one of the screen's. */
export function panOf(
  { info }: Pick<SentPicture, 'info'>,
  { centre }: ViewSettings,
  { width, height }: Screen,
  [across, down]: readonly [number, number],
): [number, number] {
  const [left, top, right, bottom] = info.displayWindow;
  return [Math.round(width / 2 - centre[0] * (right - left + 1) * across), Math.round(height / 2 - centre[1] * (bottom - top + 1) * down)];
}

function linearOf(colour: string): readonly [number, number, number] {
  const part = (at: number) => decodeSRgb(Number.parseInt(colour.slice(at, at + 2), 16) / 255);
  return [part(1), part(3), part(5)];
}

/** Linear light behind the alpha, or what stands there instead of it. */
export function backgroundLight({ background, colour }: ViewSettings): Drawn['background'] {
  if (background === 'check' || background === 'none') return background;
  if (background === 'colour') return linearOf(colour);
  return [NAMED[background], NAMED[background], NAMED[background]];
}

/** What is said of one picture. */
export function sideOf(picture: SentPicture, readAs: ReadAs, settings: ViewSettings, straight: boolean): Side {
  const fitted = readAs === 'range' || readAs === 'signs' ? (settings.range ?? valueRangeOf(picture, readAs === 'signs' ? 3 : 1)) : ([0, 1] as const);
  return { mode: READ_AS[readAs], range: fitted, hasAlpha: hasAlpha(picture), straight };
}

/** What the shader is told, but for the second picture of a comparison. */
export function drawnOf(picture: SentPicture, settings: ViewSettings, screen: Screen, side: Side): Drawn {
  const zoom = zoomOf(picture, settings, screen);
  const { splitAt, splitAngle } = settings;
  const lean = (splitAngle * Math.PI) / 180;
  return {
    look: settings.look,
    side,
    comparedAs: 'alone',
    other: side,
    splitPoint: [splitAt[0] * screen.width, splitAt[1] * screen.height],
    splitNormal: [Math.cos(lean), Math.sin(lean)],
    gain: settings.gain,
    opacity: settings.opacity,
    channel: CHANNELS[settings.channel],
    falseColour: settings.falseColour,
    markRange: settings.markRange,
    background: backgroundLight(settings),
    outlines: settings.outlines,
    pan: panOf(picture, settings, screen, zoom),
    zoom,
    strip: null,
  };
}

/** A picture with what is said of it. */
export interface Sided {
  readonly picture: SentPicture;
  readonly side: Side;
}

/** Draws a picture, and the one that it is compared with in the chosen way. */
export function drawAll(renderer: Renderer | StillRenderer, one: Sided | null, other: Sided | null, settings: ViewSettings, screen: Screen): void {
  renderer.clear();
  if (!one) return;
  if (!other) return renderer.draw(one.picture, null, drawnOf(one.picture, settings, screen, one.side));
  switch (settings.compareAs) {
    case 'other':
      return renderer.draw(other.picture, null, drawnOf(other.picture, settings, screen, other.side));
    case 'beside': {
      const left = Math.floor(screen.width / 2);
      const half = { ...screen, width: left };
      const right = drawnOf(other.picture, settings, half, other.side);
      renderer.draw(one.picture, null, { ...drawnOf(one.picture, settings, half, one.side), strip: [0, left] });
      // The line between them is left free.
      renderer.draw(other.picture, null, { ...right, pan: [right.pan[0] + screen.width - left, right.pan[1]], strip: [screen.width - left + 1, left - 1] });
      return;
    }
    default: {
      const drawn = drawnOf(one.picture, settings, screen, one.side);
      const shown = { ...drawn, other: other.side, comparedAs: settings.compareAs };
      // What lies behind takes the place of the background.
      renderer.draw(one.picture, other.picture, settings.compareAs === 'behind' ? { ...shown, background: 'none' } : shown);
    }
  }
}
