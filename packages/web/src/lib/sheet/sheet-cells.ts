import { findingCodes, type FrameState } from '@mint-tally/core';
import { columnOf, NOT_ORDERED, stateOfRank, type RibbonModel } from '$lib/ribbon/ribbon-model';
import type { ShownFinding } from '$lib/server/shot-state';

/** What a sheet of frames shows. */
export const sheetKinds = ['every', 'findings', 'passes', 'around'] as const;
export type SheetKind = (typeof sheetKinds)[number];

/** How a person has set the sheet; kept for as long as the shot is looked at. */
export interface SheetChoice {
  readonly kind: SheetKind;
  /** Of `every`: one frame in so many. */
  readonly step: number;
  /** Width of a cell in pixels. */
  readonly size: number;
}
export const USUAL_SHEET: SheetChoice = { kind: 'every', step: 1, size: 200 };

/** A frame of a pass on the sheet. */
export interface SheetCell {
  readonly pass: string;
  readonly frame: number;
  readonly state: FrameState | null;
  /** What is found of it, in a few words; empty where nothing is. */
  readonly finding: string;
}

/** Frames before and after each fault that are shown with it. */
const AROUND = 2;
/** States that need no look. */
const PLAIN: ReadonlySet<FrameState | null> = new Set([null, 'sound', 'later', 'waived']);

/** The cells of a sheet, in the order in which they are looked at. */
export function sheetCells(
  { kind, step }: SheetChoice,
  model: RibbonModel,
  findings: readonly ShownFinding[],
  { pass, column: playhead }: { readonly pass: string; readonly column: number },
): SheetCell[] {
  const lanes = new Map(model.lanes.map((lane) => [lane.name, lane.ranks]));
  const titles = titlesByFrame(findings);
  const cell = (name: string, column: number): SheetCell => {
    const frame = model.frames[column]!;
    return { pass: name, frame, state: stateOfRank(lanes.get(name)?.[column] ?? NOT_ORDERED), finding: titles.get(name)?.get(frame) ?? '' };
  };
  const ordered = (name: string, columns: Iterable<number>) =>
    [...columns].filter((column) => (lanes.get(name)?.[column] ?? NOT_ORDERED) !== NOT_ORDERED).map((column) => cell(name, column));
  switch (kind) {
    case 'every':
      return ordered(
        pass,
        [...model.frames.keys()].filter((column) => column % Math.max(1, step) === 0),
      );
    case 'passes':
      return model.frames.length === 0 ? [] : model.lanes.flatMap((lane) => ordered(lane.name, [playhead]));
    case 'findings':
      return model.lanes.flatMap((lane) => {
        const own = titles.get(lane.name);
        return own
          ? ordered(
              lane.name,
              [...own.keys()].sort((a, b) => a - b).flatMap((frame) => columnIn(model.frames, frame)),
            )
          : [];
      });
    case 'around': {
      const ranks = lanes.get(pass);
      const near = new Set<number>();
      ranks?.forEach((rank, column) => {
        if (PLAIN.has(stateOfRank(rank))) return;
        for (let by = -AROUND; by <= AROUND; by++) if (column + by >= 0 && column + by < model.frames.length) near.add(column + by);
      });
      return ordered(
        pass,
        [...near].sort((a, b) => a - b),
      );
    }
  }
}

/** What is found of each frame of each pass; of several findings the first, which weighs most. */
function titlesByFrame(findings: readonly ShownFinding[]): Map<string, Map<number, string>> {
  const titles = new Map<string, Map<number, string>>();
  for (const { pass, frames, code, waiver } of findings) {
    if (pass === null || waiver !== null) continue;
    const own = titles.get(pass) ?? new Map<number, string>();
    titles.set(pass, own);
    for (const frame of frames) if (!own.has(frame)) own.set(frame, findingCodes[code].title);
  }
  return titles;
}

function columnIn(frames: Int32Array, frame: number): number[] {
  const column = columnOf(frames, frame);
  return frames[column] === frame ? [column] : [];
}
