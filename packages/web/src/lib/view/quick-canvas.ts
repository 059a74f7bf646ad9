import { SeenByTable } from '@mint-tally/core';
import { backgroundLight, panOf, zoomOf, type Screen, type Sided } from './drawing';
import { READ_AS } from './drawn';
import type { ViewSettings } from './view-settings.svelte';

/** Whether a picture can be drawn by looking up what is seen of each sample: all of its colours, alone, without marks. */
export function canDrawQuickly({ picture, side }: Sided, other: Sided | null, settings: ViewSettings): boolean {
  const { info } = picture;
  const { falseColour, markRange, outlines, channel, background } = settings;
  const isPlain = other === null && settings.table === null && side.mode === READ_AS.colour && channel === 'all' && !falseColour && !markRange && !outlines;
  const [left, top, right, bottom] = info.dataWindow;
  const fills = left <= info.displayWindow[0] && top <= info.displayWindow[1] && right >= info.displayWindow[2] && bottom >= info.displayWindow[3];
  return isPlain && fills && info.channels.length !== 2 && !(side.hasAlpha && background === 'check');
}

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

  draw({ picture, side }: Sided, settings: ViewSettings, screen: Screen): void {
    const { info } = picture;
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
    this.table.table.see(picture, { hasAlpha: side.hasAlpha, straight: side.straight, behind }, this.image.data);
    context.putImageData(this.image, 0, 0);
    this.place(picture.info, settings, screen);
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
