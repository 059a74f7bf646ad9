import type { FrameState } from '@mint-tally/core';
import { stateOfRank, type Stretch } from './ribbon-model';

/** The tones of the states and of the ribbon's own marks, read from the theme. */
export interface Palette {
  readonly ground: string;
  readonly ink: string;
  readonly soft: string;
  readonly line: string;
  readonly mint: string;
  readonly sound: string;
  readonly bad: string;
  readonly odd: string;
  readonly waived: string;
}

/** Reads the theme's tones as they apply at an element. */
export function readPalette(element: Element): Palette {
  const style = getComputedStyle(element);
  const tone = (name: string) => style.getPropertyValue(`--${name}`).trim();
  return {
    ground: tone('ground'),
    ink: tone('ink'),
    soft: tone('soft'),
    line: tone('line'),
    mint: tone('mint'),
    sound: tone('sound'),
    bad: tone('bad'),
    odd: tone('odd'),
    waived: tone('waived'),
  };
}

const hatches = new Map<string, HTMLCanvasElement>();

/** A tile of diagonal stripes, made once for each tone. */
function hatch(tone: string): HTMLCanvasElement {
  let tile = hatches.get(tone);
  if (tile) return tile;
  tile = document.createElement('canvas');
  tile.width = 6;
  tile.height = 6;
  const context = tile.getContext('2d')!;
  context.strokeStyle = tone;
  context.lineWidth = 2.4;
  for (const shift of [-6, 0, 6]) {
    context.beginPath();
    context.moveTo(shift - 1, 7);
    context.lineTo(shift + 7, -1);
    context.stroke();
  }
  hatches.set(tone, tile);
  return tile;
}

/**
 * Draws stretches in their states' shapes: sound filled, missing hollow, broken split, wrong a wedge, odd hatched,
 * not yet counted dotted, waived ringed.
 */
export function drawStretches(
  context: CanvasRenderingContext2D,
  stretches: readonly Stretch[],
  left: number,
  top: number,
  height: number,
  palette: Palette,
): void {
  const odd = context.createPattern(hatch(palette.odd), 'repeat')!;
  context.fillStyle = palette.sound;
  for (const { x, width, rank } of stretches) if (stateOfRank(rank) === 'sound') context.fillRect(left + x, top, width, height);
  for (const { x, width, rank } of stretches) {
    const state = stateOfRank(rank);
    if (state !== null && state !== 'sound') drawOne(context, state, left + x, top, width, height, palette, odd);
  }
}

function drawOne(
  context: CanvasRenderingContext2D,
  state: FrameState,
  x: number,
  y: number,
  width: number,
  height: number,
  palette: Palette,
  odd: CanvasPattern,
): void {
  if (state === 'missing') {
    context.strokeStyle = palette.bad;
    context.lineWidth = 1.5;
    if (width < 3.5) {
      // Too narrow to be hollow: two ends with nothing between.
      context.fillStyle = palette.bad;
      context.fillRect(x, y, width, 3);
      context.fillRect(x, y + height - 3, width, 3);
    } else context.strokeRect(x + 0.75, y + 0.75, width - 1.5, height - 1.5);
  } else if (state === 'broken') {
    context.fillStyle = palette.bad;
    context.fillRect(x, y, width, height);
    context.strokeStyle = palette.ground;
    context.lineWidth = 2;
    context.beginPath();
    if (width < 4) {
      context.moveTo(x, y + height / 2);
      context.lineTo(x + width, y + height / 2);
    } else {
      const lean = Math.min(width, height) / 3;
      const middle = x + width / 2;
      context.moveTo(middle + lean / 2, y);
      context.lineTo(middle - lean / 2, y + height);
    }
    context.stroke();
  } else if (state === 'wrong') drawWedges(context, x, y, width, height, palette.bad);
  else if (state === 'odd') {
    context.fillStyle = odd;
    context.fillRect(x, y, width, height);
    if (width < 4) {
      context.fillStyle = palette.odd;
      for (let row = y; row < y + height; row += 4) context.fillRect(x, row, width, 2);
    }
  } else if (state === 'later') {
    context.strokeStyle = palette.soft;
    context.lineWidth = 1;
    context.setLineDash([1.5, 2.5]);
    context.strokeRect(x + 0.5, y + 0.5, Math.max(1, width - 1), height - 1);
    context.setLineDash([]);
  } else {
    context.fillStyle = palette.sound;
    context.fillRect(x, y, width, height);
    context.fillStyle = palette.ground;
    const size = Math.min(width, height) - 2;
    if (size >= 5) {
      context.lineWidth = 1.75;
      context.strokeStyle = palette.ground;
      context.beginPath();
      context.arc(x + width / 2, y + height / 2, size / 2 - 1, 0, 2 * Math.PI);
      context.stroke();
    } else context.fillRect(x, y + height / 2 - 1.5, width, 3);
  }
}

/** Wedges that stand on the lane's foot, about as wide as high; where there is no room for one its lower half. */
function drawWedges(context: CanvasRenderingContext2D, x: number, y: number, width: number, height: number, tone: string): void {
  context.fillStyle = tone;
  if (width < 4) {
    context.fillRect(x, y + height / 2, width, height / 2);
    return;
  }
  const foot = Math.min(2, height / 4);
  context.fillRect(x, y + height - foot, width, foot);
  const count = Math.max(1, Math.round(width / height));
  const wide = width / count;
  context.beginPath();
  for (let i = 0; i < count; i++) {
    context.moveTo(x + i * wide, y + height - foot);
    context.lineTo(x + (i + 0.5) * wide, y);
    context.lineTo(x + (i + 1) * wide, y + height - foot);
  }
  context.fill();
}

/** Sizes a canvas to its box in device pixels and gives a context in box pixels, cleared. */
export function prepareCanvas(canvas: HTMLCanvasElement, width: number, height: number): CanvasRenderingContext2D | null {
  const ratio = window.devicePixelRatio || 1;
  const [deviceWidth, deviceHeight] = [Math.round(width * ratio), Math.round(height * ratio)];
  if (canvas.width !== deviceWidth) canvas.width = deviceWidth;
  if (canvas.height !== deviceHeight) canvas.height = deviceHeight;
  const context = canvas.getContext('2d');
  context?.setTransform(ratio, 0, 0, ratio, 0, 0);
  context?.clearRect(0, 0, width, height);
  return context;
}
