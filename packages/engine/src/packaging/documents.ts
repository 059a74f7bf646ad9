import { framePath, writeCsv, writeTimeline, type Brief, type Order } from '@mint-tally/core';
import type { CountedFile } from '../counting/count-folder.ts';

/** What lies beside the frames of a package: the order, the count, a line a file, and the passes as image sequences. */
export function packageDocuments(brief: Brief, order: Order, counted: readonly CountedFile[], tally: unknown): Record<string, unknown> {
  return { 'brief.json': brief, 'tally.json': tally, 'frames.csv': framesTable(order, counted), 'shot.otio': writeTimeline(order) };
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
