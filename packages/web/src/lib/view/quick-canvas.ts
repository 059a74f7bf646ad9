import { SeenByTable } from '@mint-tally/core';
import { backgroundLight, panOf, zoomOf, type Screen, type Sided } from './drawing';
import { READ_AS } from './drawn';
import type { ViewSettings } from './view-settings.svelte';

/** Whether pictures can be drawn by looking up what is seen of each sample: all of their colours, one alone or the difference of two, without marks. */
export function canDrawQuickly(one: Sided, other: Sided | null, settings: ViewSettings): boolean {
  const { table, falseColour, markRange, outlines, channel, compareAs } = settings;
  if (table !== null || channel !== 'all' || falseColour || markRange || outlines) return false;
  if (other === null) return hasPlainColours(one, settings);
  if (compareAs === 'other') return hasPlainColours(other, settings);
  return compareAs === 'difference' && hasPlainColours(one, settings) && hasPlainColours(other, settings) && placeOf(one) === placeOf(other);
}

/** Colours that fill the display window, before something that is the same everywhere. */
function hasPlainColours({ picture: { info }, side }: Sided, { background }: ViewSettings): boolean {
  const [left, top, right, bottom] = info.dataWindow;
  const fills = left <= info.displayWindow[0] && top <= info.displayWindow[1] && right >= info.displayWindow[2] && bottom >= info.displayWindow[3];
  return side.mode === READ_AS.colour && fills && info.channels.length !== 2 && !(side.hasAlpha && background === 'check');
}

/** Where samples lie: those of two pictures that lie alike belong together one by one. */
const placeOf = ({ picture: { info } }: Sided) => [info.width, info.height, info.left, info.top, info.reduce, ...info.dataWindow, ...info.displayWindow].join();

/**
 * Draws colours with the processor, at the picture's own size, and leaves it to the browser to bring them to the
 * screen's: where there is no graphics card this plays 60 frames a second of 960 x 540, and WebGL 26.
 */
export class QuickCanvas {
  private readonly canvas: HTMLCanvasElement;
  private readonly context: CanvasRenderingContext2D;
  private image: ImageData | null = null;
  private table: { key: string; table: SeenByTable } | null = null;

  constructor(canvas: HTMLCanvasElement) {
    const context = canvas.getContext('2d', { alpha: false });
    if (!context) throw new Error('This browser cannot draw.');
    this.canvas = canvas;
    this.context = context;
  }

  /** Draws a picture, or two as {@link canDrawQuickly} takes them. */
  draw(one: Sided, other: Sided | null, settings: ViewSettings, screen: Screen): void {
    const shown = other !== null && settings.compareAs === 'other' ? other : one;
    const { info } = shown.picture;
    const { canvas, context } = this;
    if (canvas.width !== info.width || canvas.height !== info.height || !this.image) {
      canvas.width = info.width;
      canvas.height = info.height;
      this.image = context.createImageData(info.width, info.height);
    }
    const key = JSON.stringify(settings.look);
    if (this.table?.key !== key) this.table = { key, table: new SeenByTable(settings.look) };
    const light = backgroundLight(settings);
    const behind = light === 'check' || light === 'none' ? null : light;
    const alphaOf = ({ side: { hasAlpha, straight } }: Sided) => ({ hasAlpha, straight, behind });
    const { table } = this.table;
    if (other !== null && shown !== other)
      table.seeDifference({ picture: one.picture, alpha: alphaOf(one) }, { picture: other.picture, alpha: alphaOf(other) }, settings.gain, this.image.data);
    else table.see(shown.picture, alphaOf(shown), this.image.data);
    context.putImageData(this.image, 0, 0);
    this.place(info, settings, screen);
  }

  private place(info: Sided['picture']['info'], settings: ViewSettings, screen: Screen): void {
    const zoom = zoomOf({ info }, settings, screen);
    const pan = panOf({ info }, settings, screen, zoom);
    const scale = window.devicePixelRatio;
    const [left, top] = [info.dataWindow[0] - info.displayWindow[0] + info.left, info.dataWindow[1] - info.displayWindow[1] + info.top];
    const { style } = this.canvas;
    style.left = `${(pan[0] + left * zoom[0]) / scale}px`;
    style.top = `${(pan[1] + top * zoom[1]) / scale}px`;
    style.width = `${(info.width * info.reduce * zoom[0]) / scale}px`;
    style.height = `${(info.height * info.reduce * zoom[1]) / scale}px`;
    style.maxWidth = 'none';
    style.imageRendering = zoom[1] * info.reduce >= 1 ? 'pixelated' : 'auto';
  }
}
