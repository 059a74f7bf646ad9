import type { SentPicture } from '@mint-tally/core';
import type { ShotView } from '$lib/shot/shot-view.svelte';
import { panOf, zoomOf } from './drawing';
import type { Viewing } from './viewing.svelte';

/** A press that has not been let go. */
interface Drag {
  readonly x: number;
  readonly y: number;
  readonly does: 'pan' | 'scrub' | 'mark';
  /** Of the picture, where it began. */
  readonly pixel: readonly [number, number];
  readonly column: number;
  readonly centre: readonly [number, number];
  moved: boolean;
}

/** What a pointer does in the picture: it pins a pixel, pans, scrubs, marks a region, and zooms by its wheel. */
export class PicturePointer {
  private drag: Drag | null = null;
  private readonly canvas: HTMLCanvasElement;
  private readonly viewing: Viewing;
  private readonly view: ShotView;
  private readonly picture: () => SentPicture | null;

  /** @param picture the one that is shown at the moment */
  constructor(canvas: HTMLCanvasElement, viewing: Viewing, view: ShotView, picture: () => SentPicture | null) {
    this.canvas = canvas;
    this.viewing = viewing;
    this.view = view;
    this.picture = picture;
  }

  /** Another took the pointer away: what it had begun is left as it is. */
  cancel(): void {
    this.drag = null;
  }

  /** A place on the screen in device pixels. */
  private deviceAt(event: PointerEvent | WheelEvent): [number, number] {
    const { screen } = this.viewing;
    const box = this.canvas.getBoundingClientRect();
    return [((event.clientX - box.left) * screen.width) / box.width, ((event.clientY - box.top) * screen.height) / box.height];
  }

  private pixelAt(event: PointerEvent | WheelEvent): [number, number] | null {
    const picture = this.picture();
    if (!picture) return null;
    const { settings, screen } = this.viewing;
    const zoom = zoomOf(picture, settings, screen);
    const pan = panOf(picture, settings, screen, zoom);
    const [x, y] = this.deviceAt(event);
    return [(x - pan[0]) / zoom[0], (y - pan[1]) / zoom[1]];
  }

  private sizeOfDisplay({ info }: SentPicture): [number, number] {
    const [left, top, right, bottom] = info.displayWindow;
    return [right - left + 1, bottom - top + 1];
  }

  press(event: PointerEvent): void {
    const picture = this.picture();
    if (!picture || (event.button !== 0 && event.button !== 1)) return;
    const { settings, screen } = this.viewing;
    this.canvas.setPointerCapture(event.pointerId);
    const [across, down] = zoomOf(picture, settings, screen);
    const [width, height] = this.sizeOfDisplay(picture);
    const isLarger = width * across > screen.width + 1 || height * down > screen.height + 1;
    const [x, y] = this.deviceAt(event);
    const marks = this.viewing.marking || event.ctrlKey || event.metaKey;
    const does = event.button === 1 ? 'pan' : marks ? 'mark' : isLarger && !event.shiftKey ? 'pan' : 'scrub';
    this.drag = { x, y, does, pixel: this.pixelAt(event)!, column: this.view.column, centre: settings.centre, moved: false };
    if (does === 'scrub') this.viewing.stop();
  }

  move(event: PointerEvent): void {
    const at = this.pixelAt(event);
    this.viewing.pointed = at ? [Math.floor(at[0]), Math.floor(at[1])] : null;
    const { drag } = this;
    const picture = this.picture();
    if (!drag || !picture) return;
    const { settings, screen } = this.viewing;
    const [x, y] = this.deviceAt(event);
    if (Math.hypot(x - drag.x, y - drag.y) > 3) drag.moved = true;
    if (!drag.moved) return;
    if (drag.does === 'mark') this.viewing.region = this.regionBetween(picture, drag.pixel, at!);
    else if (drag.does === 'pan') {
      const [across, down] = zoomOf(picture, settings, screen);
      const [width, height] = this.sizeOfDisplay(picture);
      const clamp = (value: number) => Math.min(1, Math.max(0, value));
      settings.centre = [clamp(drag.centre[0] - (x - drag.x) / (width * across)), clamp(drag.centre[1] - (y - drag.y) / (height * down))];
    } else {
      // The whole picture's width goes through the whole stretch, a frame every few pixels at least.
      const perColumn = Math.max(3, Math.min(40, screen.width / this.viewing.course.count));
      this.view.goToColumn(drag.column + Math.round((x - drag.x) / perColumn));
    }
  }

  /** The pixels between two places, both within the picture. */
  private regionBetween(picture: SentPicture, a: readonly [number, number], b: readonly [number, number]): [number, number, number, number] {
    const size = this.sizeOfDisplay(picture);
    const clamp = (value: number, side: 0 | 1) => Math.min(size[side] - 1, Math.max(0, Math.floor(value)));
    const [left, top] = [clamp(Math.min(a[0], b[0]), 0), clamp(Math.min(a[1], b[1]), 1)];
    return [left, top, clamp(Math.max(a[0], b[0]), 0) - left + 1, clamp(Math.max(a[1], b[1]), 1) - top + 1];
  }

  /** A press without a drag pins the pixel under it, or lets the pinned one go. */
  release(): void {
    const { drag, viewing } = this;
    const picture = this.picture();
    if (drag && !drag.moved && drag.does !== 'mark') {
      const [x, y] = [Math.floor(drag.pixel[0]), Math.floor(drag.pixel[1])];
      const isSame = viewing.pinned !== null && viewing.pinned[0] === x && viewing.pinned[1] === y;
      const [width, height] = picture ? this.sizeOfDisplay(picture) : [0, 0];
      viewing.pinned = isSame || x < 0 || y < 0 || x >= width || y >= height ? null : [x, y];
    }
    if (drag?.does === 'mark' && drag.moved) viewing.marking = false;
    this.drag = null;
  }

  turn(event: WheelEvent): void {
    event.preventDefault();
    const picture = this.picture();
    if (!picture) return;
    const { settings, screen } = this.viewing;
    const [, down] = zoomOf(picture, settings, screen);
    this.zoomTo(picture, down * Math.exp(-event.deltaY * 0.0015), this.pixelAt(event)!, this.deviceAt(event));
  }

  /** Zooms so that a pixel of the picture stays where it is on the screen. */
  private zoomTo(picture: SentPicture, zoom: number, [x, y]: readonly [number, number], [screenX, screenY]: readonly [number, number]): void {
    const { settings, screen } = this.viewing;
    const down = Math.min(64, Math.max(1 / 32, zoom));
    const across = down * (settings.pixelAspect ? picture.info.pixelAspect : 1);
    const [width, height] = this.sizeOfDisplay(picture);
    settings.zoom = down;
    settings.centre = [(x - (screenX - screen.width / 2) / across) / width, (y - (screenY - screen.height / 2) / down) / height];
  }
}
