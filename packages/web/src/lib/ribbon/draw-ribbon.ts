import type { Figures } from '$lib/files/file-row';
import type { FigureLane } from '$lib/shot/shot-view.svelte';
import { drawBars, drawHosts, type BarLane } from './draw-figures';
import { drawWatched } from './draw-watched';
import { drawStretches, prepareCanvas, readPalette } from './draw-states';
import { chooseTicks, stretchesOf, type RibbonLane, type RibbonModel } from './ribbon-model';

/** Where the first lane begins, in pixels; above it stand the frame numbers. */
export const TOP = 24;

/** Figures under the passes, with the height of each. */
export const FIGURE_HEIGHTS = { noise: 30, temporalNoise: 30, meanLuminance: 30, fireflies: 30, size: 30, machine: 18, watched: 14 } as const;

/** Between a row of figures and the next. */
export const FIGURE_GAP = 6;

/** All that a drawing of the ribbon depends on. */
export interface RibbonFacts {
  readonly model: RibbonModel;
  readonly shown: readonly [number, number];
  readonly column: number;
  readonly frame: number;
  /** Runs of selected columns. */
  readonly selected: readonly (readonly [number, number])[];
  readonly lanes: readonly RibbonLane[];
  readonly width: number;
  readonly height: number;
  readonly laneHeight: number;
  readonly laneGap: number;
  readonly shownFigures: readonly FigureLane[];
  readonly figures: Figures | null;
  /** Figures that are drawn as bars; those that are not known are not there. */
  readonly bars: Readonly<Partial<Record<FigureLane, BarLane>>>;
  /** How far each column has been watched; null where nothing is known of it. */
  readonly watched: Uint8Array | null;
  readonly lanesEnd: number;
  readonly hoverColumn: number | null;
  /** Whether a column's picture is in memory; null where nothing is looked at. */
  readonly isHeld: ((column: number) => boolean) | null;
}

/** Draws lanes, figures, selection and playhead; a canvas that cannot be drawn on stays empty. */
export function drawRibbon(target: HTMLCanvasElement, facts: RibbonFacts): void {
  const context = prepareCanvas(target, facts.width, facts.height);
  if (!context || facts.model.frames.length === 0) return;
  const palette = readPalette(target);
  const [from, to] = facts.shown;
  const perColumn = facts.width / (to - from);
  const { frames } = facts.model;
  for (const [first, last] of facts.selected) {
    if (last < from || first > to) continue;
    const [x, wide] = [(first - from) * perColumn, Math.max(2, (last - first + 1) * perColumn)];
    context.globalAlpha = 0.18;
    context.fillStyle = palette.mint;
    context.fillRect(x, TOP - 4, wide, facts.height - TOP + 4);
    context.globalAlpha = 1;
    context.strokeStyle = palette.mint;
    context.lineWidth = 1;
    context.strokeRect(x + 0.5, TOP - 3.5, wide - 1, facts.height - TOP + 3);
  }
  facts.lanes.forEach((lane, index) => {
    drawStretches(context, stretchesOf(lane.ranks, from, to, facts.width), 0, TOP + index * facts.laneHeight, facts.laneHeight - facts.laneGap, palette);
  });
  let top = facts.lanesEnd + 4;
  for (const lane of facts.shownFigures) {
    const strip = { shown: facts.shown, top, width: facts.width, height: FIGURE_HEIGHTS[lane] };
    if (facts.bars[lane]) drawBars(context, facts.bars[lane], strip, palette);
    else if (lane === 'machine') drawHosts(context, frames, facts.figures!, strip, palette);
    else if (lane === 'watched') drawWatched(context, facts.watched!, strip, palette);
    top += FIGURE_HEIGHTS[lane] + FIGURE_GAP;
  }
  if (facts.isHeld) drawHeld(context, facts, facts.isHeld, palette.mint, perColumn);
  if (facts.hoverColumn !== null && facts.hoverColumn !== facts.column) {
    context.globalAlpha = 0.5;
    context.fillStyle = palette.soft;
    context.fillRect(Math.round((facts.hoverColumn + 0.5 - from) * perColumn), TOP - 4, 1, facts.height - TOP + 4);
    context.globalAlpha = 1;
  }
  drawTop(context, facts, palette, perColumn);
}

/** A line under the lanes wherever pictures are in memory. */
function drawHeld(
  context: CanvasRenderingContext2D,
  { shown: [from, to], height }: RibbonFacts,
  isHeld: (column: number) => boolean,
  tone: string,
  perColumn: number,
) {
  context.fillStyle = tone;
  let start = -1;
  for (let column = Math.floor(from); column <= Math.ceil(to); column++) {
    const held = column < Math.ceil(to) && isHeld(column);
    if (held && start < 0) start = column;
    if (!held && start >= 0) {
      context.fillRect((start - from) * perColumn, height - 3, Math.max(1, (column - start) * perColumn), 3);
      start = -1;
    }
  }
}

function drawTop(context: CanvasRenderingContext2D, facts: RibbonFacts, palette: ReturnType<typeof readPalette>, perColumn: number) {
  const [from, to] = facts.shown;
  const { frames } = facts.model;
  context.font = "12px 'Atkinson Hyperlegible Mono Variable', monospace";
  context.textBaseline = 'middle';
  const head = (facts.column + 0.5 - from) * perColumn;
  const label = String(facts.frame);
  const labelWidth = context.measureText(label).width + 12;
  const labelLeft = Math.min(facts.width - labelWidth, Math.max(0, head - labelWidth / 2));
  context.fillStyle = palette.soft;
  for (const column of chooseTicks(frames, from, to, facts.width, 62)) {
    const x = (column - from) * perColumn;
    const text = String(frames[column]);
    const end = x + context.measureText(text).width;
    context.fillRect(x, TOP - 6, 1, 4);
    // A number that the playhead's would cover, or that would be cut, gives way.
    if (end + 4 < labelLeft || x > labelLeft + labelWidth + 4) if (end <= facts.width) context.fillText(text, x, 9);
  }
  if (facts.column + 1 <= from || facts.column >= to) return;
  context.fillStyle = palette.ink;
  context.fillRect(Math.round(head) - 1, 16, 2, facts.height - 16);
  context.beginPath();
  context.roundRect(labelLeft, 0, labelWidth, 18, 4);
  context.fill();
  context.fillStyle = palette.ground;
  context.fillText(label, labelLeft + 6, 9.5);
}
