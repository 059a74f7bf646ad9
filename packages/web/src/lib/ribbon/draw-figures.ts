import type { Figures } from '$lib/files/file-row';
import type { Palette } from './draw-states';
import { columnOf } from './ribbon-model';

/** Figures over the ribbon's columns; NaN where nothing is known. */
export interface BarLane {
  readonly values: Float64Array;
  readonly largest: number;
}

/** Brings a figure of some frames onto the ribbon's columns. @param least that the bars are drawn against, where all are smaller */
export function makeBarLane(frames: Int32Array, known: readonly number[], figures: readonly (number | null)[], least: number): BarLane {
  const values = new Float64Array(frames.length).fill(NaN);
  known.forEach((frame, i) => (values[columnOf(frames, frame)] = figures[i] ?? NaN));
  return { values, largest: figures.reduce<number>((most, value) => Math.max(most, value ?? 0), least) };
}

/** Where figures are drawn: the columns that are shown, and its box in pixels. */
export interface Strip {
  readonly shown: readonly [number, number];
  readonly top: number;
  readonly width: number;
  readonly height: number;
}

/** Bars as high as the values; where frames share a pixel, from the smallest to the largest of them. */
export function drawBars(context: CanvasRenderingContext2D, lane: BarLane, { shown, top, width, height }: Strip, palette: Palette): void {
  const [from, to] = shown;
  const scale = width / (to - from);
  const tall = (value: number) => Math.max(1, (value / lane.largest) * height);
  context.fillStyle = palette.soft;
  context.globalAlpha = 0.75;
  if (scale >= 3) {
    for (let column = Math.max(0, Math.floor(from)); column < Math.min(lane.values.length, Math.ceil(to)); column++) {
      const value = lane.values[column];
      if (!Number.isNaN(value)) context.fillRect((column - from) * scale, top + height - tall(value), scale - (scale >= 7 ? 1 : 0.5), tall(value));
    }
  } else {
    for (let x = 0; x < width; x++) {
      let most = -1;
      let least = Infinity;
      const end = Math.min(lane.values.length, Math.ceil(from + (x + 1) / scale));
      for (let column = Math.max(0, Math.floor(from + x / scale)); column < end; column++) {
        const value = lane.values[column];
        if (value > most) most = value;
        if (value < least) least = value;
      }
      if (most < 0) continue;
      context.globalAlpha = 0.4;
      context.fillRect(x, top + height - tall(most), 1, tall(most) - tall(least));
      context.globalAlpha = 0.75;
      context.fillRect(x, top + height - tall(least), 1, tall(least));
    }
  }
  context.globalAlpha = 1;
}

/** Stretches of frames that one machine wrote, each with its name where there is room. */
export function drawHosts(context: CanvasRenderingContext2D, frames: Int32Array, figures: Figures, strip: Strip, palette: Palette): void {
  const { shown, top, width, height } = strip;
  const [from, to] = shown;
  const scale = width / (to - from);
  context.font = "11px 'Atkinson Hyperlegible Next Variable', sans-serif";
  context.textBaseline = 'middle';
  for (let i = 0; i < figures.frames.length;) {
    let end = i + 1;
    while (
      end < figures.frames.length &&
      figures.host[end] === figures.host[i] &&
      columnOf(frames, figures.frames[end]) === columnOf(frames, figures.frames[end - 1]) + 1
    )
      end++;
    const left = Math.max(0, (columnOf(frames, figures.frames[i]) - from) * scale);
    const right = Math.min(width, (columnOf(frames, figures.frames[end - 1]) + 1 - from) * scale);
    if (figures.host[i] >= 0 && right > left) {
      // Neighbours differ in tone; the name tells them.
      context.globalAlpha = figures.host[i] % 2 === 0 ? 0.28 : 0.16;
      context.fillStyle = palette.ink;
      context.fillRect(left, top, Math.max(1, right - left - 1), height);
      context.globalAlpha = 1;
      const name = figures.hosts[figures.host[i]];
      if (context.measureText(name).width + 8 < right - left) context.fillText(name, left + 5, top + height / 2 + 0.5);
    }
    i = end;
  }
}
