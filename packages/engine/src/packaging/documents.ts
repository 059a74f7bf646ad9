import { framePath, writeCsv, writeTimeline, type Brief, type Order } from '@mint-tally/core';
import type { CountedFile } from '../counting/count-folder.ts';

/** Everything that a package may hold beside its frames, in its payload. */
export const DOCUMENTS: ReadonlySet<string> = new Set(['brief.json', 'tally.json', 'assay.json', 'frames.csv', 'shot.otio', 'note.md', 'delta.json']);

/** What says what the frames of a package are: the order, a line a file, and the passes as image sequences. */
export function packageDocuments(brief: Brief, order: Order, counted: readonly CountedFile[]): Record<string, unknown> {
  return { 'brief.json': brief, 'frames.csv': framesTable(order, counted), 'shot.otio': writeTimeline(order) };
}

/** Which frame of which pass each file is, and its checksum. */
function framesTable({ passes }: Order, counted: readonly CountedFile[]): string {
  const places = new Map(
    passes.flatMap(({ pass, pattern, frames, owner }, index) =>
      owner === index ? [...frames].map((frame) => [framePath(pattern, frame), { pass: pass.name, frame }] as const) : [],
    ),
  );
  return writeCsv(
    counted.map(({ path: file, size, sha256 }) => ({ file, pass: places.get(file)?.pass ?? '', frame: places.get(file)?.frame ?? '', bytes: size, sha256 })),
  );
}
