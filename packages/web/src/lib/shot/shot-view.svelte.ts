import { getContext, setContext } from 'svelte';
import { FrameSet, formatFrameRange, frameStates, stateRank, type Lane, type PassEyes } from '@mint-tally/core';
import { USUAL_SHEET, type SheetChoice } from '$lib/sheet/sheet-cells';
import { measuredLanes } from '$lib/files/file-row';
import { columnOf, makeRibbonModel, NOT_ORDERED, type RibbonModel } from '$lib/ribbon/ribbon-model';

const KEY = Symbol('shot view');
/** Figures that the ribbon can show under the passes. */
export const figureLanes = [...measuredLanes, 'size', 'machine', 'watched'] as const;
export type FigureLane = (typeof figureLanes)[number];

const WAIVED = stateRank(frameStates.waived);

/** What all screens of one shot share: playhead, pass, selection, and the stretch that the ribbon shows. */
export class ShotView {
  private readonly lanes: () => readonly Lane[];
  readonly model: RibbonModel = $derived.by(() => makeRibbonModel(this.lanes()));
  private wantedFrame: number | null = $state(null);
  private wantedPass: string | null = $state(null);
  /** The selected frames, of the ordered ones; empty when none is. */
  selected: FrameSet = $state.raw(FrameSet.empty);
  /** Where a selection that is drawn with the keys began. */
  private anchor: number | null = null;
  /** Columns that the ribbon shows; null for all. */
  window: readonly [number, number] | null = $state(null);

  /** The docket's rows in its order, for travelling from finding to finding; set by the docket while it shows. */
  docket: { readonly keys: readonly string[]; readonly choose: (key: string) => void } | null = null;
  /** Keys that belong to the screen that shows, asked before those of all screens. */
  screenKeys: { readonly press: (event: KeyboardEvent) => boolean; readonly list: readonly (readonly [keys: string, does: string])[] } | null =
    $state.raw(null);
  /** Which columns' pictures are in memory, while a viewer shows; `version` changes with them. */
  memory: { readonly version: () => number; readonly has: (column: number) => boolean } | null = $state.raw(null);
  /** What has been seen, where a screen knows it sooner than the page; null for what the page says. */
  eyes: readonly PassEyes[] | null = $state.raw(null);
  /** How the sheet of frames is set. */
  sheet: SheetChoice = $state.raw(USUAL_SHEET);
  /** Key of the chosen finding. */
  chosen: string | null = $state(null);
  /** Passes that the full ribbon leaves out, and figures that it shows below. */
  hidden: readonly string[] = $state([]);
  figures: readonly FigureLane[] = $state(['noise', 'size', 'machine', 'watched']);

  constructor(lanes: () => readonly Lane[]) {
    this.lanes = lanes;
  }

  /** The column under the playhead. */
  readonly column: number = $derived.by(() => (this.wantedFrame === null ? 0 : columnOf(this.model.frames, this.wantedFrame)));
  /** The frame under the playhead. */
  readonly frame: number = $derived.by(() => this.model.frames[this.column] ?? 0);
  /** The pass that is looked at. */
  readonly pass: string = $derived.by(() => {
    const names = this.model.lanes.map((lane) => lane.name);
    return this.wantedPass !== null && names.includes(this.wantedPass) ? this.wantedPass : (names[0] ?? '');
  });
  readonly shown: readonly [number, number] = $derived.by(() => this.window ?? [0, Math.max(1, this.model.frames.length)]);
  /** The selected frames in range notation: the same text wherever they can be copied. */
  readonly selectionRange: string = $derived.by(() => formatFrameRange(this.selected));
  readonly selectionSize: number = $derived.by(() => this.selected.size);
  /** Runs of neighbouring columns that are selected: the first of each, and the last. */
  readonly selectedColumns: readonly (readonly [number, number])[] = $derived.by(() => columnRuns(this.model.frames, this.selected));

  /** Moves the playhead, and the ribbon with it when it would leave the picture. */
  goTo(frame: number): void {
    this.wantedFrame = frame;
    if (!this.window) return;
    const [from, to] = this.window;
    if (this.column < from) this.pan(this.column - from);
    else if (this.column + 1 > to) this.pan(this.column + 1 - to);
  }

  goToColumn(column: number): void {
    const last = this.model.frames.length - 1;
    if (last >= 0) this.goTo(this.model.frames[Math.min(last, Math.max(0, Math.round(column)))]);
  }

  choosePass(name: string): void {
    this.wantedPass = name;
  }

  /** Looks at the next or the previous pass. */
  stepPass(step: number): void {
    const names = this.model.lanes.map((lane) => lane.name);
    this.wantedPass = names[Math.min(names.length - 1, Math.max(0, names.indexOf(this.pass) + step))] ?? null;
  }

  /** Selects a stretch, both ends included; one without any ordered frame selects nothing. */
  select(a: number, b: number): void {
    const [first, last] = a <= b ? [a, b] : [b, a];
    this.anchor = a;
    this.selected = FrameSet.of(this.model.frames.filter((frame) => frame >= first && frame <= last));
  }

  /** Selects these frames and none between them, as far as they are ordered. */
  selectFrames(frames: FrameSet): void {
    this.anchor = null;
    this.selected = FrameSet.of(this.model.frames).intersection(frames);
  }

  clearSelection(): void {
    this.anchor = null;
    this.selected = FrameSet.empty;
  }

  /** Moves the playhead and draws the selection along. */
  extendTo(column: number): void {
    const anchor = this.anchor ?? this.frame;
    this.goToColumn(column);
    this.select(anchor, this.frame);
  }

  /** Goes to the next frame (or back to the previous) of any pass that something is wrong with. */
  goToTrouble(step: 1 | -1): boolean {
    const { ranks } = this.model.worst;
    for (let column = this.column + step; column >= 0 && column < ranks.length; column += step) {
      if (ranks[column] === NOT_ORDERED || ranks[column] <= WAIVED) continue;
      this.goToColumn(column);
      const lane = this.model.lanes.find((candidate) => candidate.ranks[column] === ranks[column]);
      if (lane) this.choosePass(lane.name);
      return true;
    }
    return false;
  }

  /** Chooses the docket's next finding, or the one before. */
  stepFinding(step: 1 | -1): boolean {
    const { docket } = this;
    if (!docket || docket.keys.length === 0) return false;
    const at = this.chosen === null ? -1 : docket.keys.indexOf(this.chosen);
    const next = at < 0 ? (step > 0 ? 0 : docket.keys.length - 1) : at + step;
    if (next < 0 || next >= docket.keys.length) return false;
    docket.choose(docket.keys[next]!);
    return true;
  }

  pan(columns: number): void {
    const [from, to] = this.shown;
    const shift = Math.min(this.model.frames.length - to, Math.max(-from, columns));
    this.window = [from + shift, to + shift];
  }

  /** Shows fewer columns (factor below 1) or more, around one of them. */
  zoom(factor: number, around: number): void {
    const [from, to] = this.shown;
    const all = Math.max(1, this.model.frames.length);
    const span = Math.min(all, Math.max(Math.min(8, all), (to - from) * factor));
    if (span >= all) {
      this.window = null;
      return;
    }
    const start = Math.min(all - span, Math.max(0, around - ((around - from) * span) / (to - from)));
    this.window = [start, start + span];
  }
}

function columnRuns(frames: Int32Array, selected: FrameSet): (readonly [number, number])[] {
  const runs: [number, number][] = [];
  if (selected.isEmpty) return runs;
  frames.forEach((frame, column) => {
    if (!selected.has(frame)) return;
    const last = runs.at(-1);
    if (last && last[1] === column - 1) last[1] = column;
    else runs.push([column, column]);
  });
  return runs;
}

export function provideShotView(lanes: () => readonly Lane[]): ShotView {
  return setContext(KEY, new ShotView(lanes));
}

export function useShotView(): ShotView {
  return getContext<ShotView>(KEY);
}
