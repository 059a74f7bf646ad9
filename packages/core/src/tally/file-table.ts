import * as z from 'zod';
import { notesOf } from '../assay/index.ts';
import type { Order, OrderedPass } from '../brief/index.ts';
import { CONTENT_DIGITS, type PassContents } from '../eyes/index.ts';
import type { FileFacts } from '../inspection/index.ts';
import { framePath } from '../naming/index.ts';
import type { Assignment } from './assign.ts';
import type { ListedFile } from './listing.ts';

/** Columns are looked at and not copied: there may be hundreds of thousands of rows. */
const column = <Value>(holds: (value: unknown) => boolean) => z.custom<Value[]>((values) => Array.isArray(values) && values.every(holds));
const numbers = column<number>((value) => typeof value === 'number');
const texts = column<string>((value) => typeof value === 'string');

/**
 * Every file that stands for an ordered frame, with the few facts that are listed of each, column by
 * column: of two hundred thousand files this is read in a moment, and rows would not be. Sorted by pass,
 * frame and path.
 */
export const fileTableSchema = z.object({
  /** Names of the passes that own files; `pass` holds places in it. */
  passes: z.array(z.string()),
  path: texts,
  pass: numbers,
  frame: numbers,
  size: numbers,
  /** Milliseconds since 1970. */
  modified: numbers,
  /** Size in pixels, depth and compression in a few words; `kind` holds places in it. */
  kinds: z.array(z.string()),
  kind: numbers,
  /** Machines; `host` holds places in it, -1 where the file does not say. */
  hosts: z.array(z.string()),
  host: numbers,
  /** Null where the file does not say. */
  samples: column<number | null>((value) => value === null || typeof value === 'number'),
});
export type FileTable = z.output<typeof fileTableSchema>;

/** Lists the files of a count. */
export function makeFileTable(order: Order, assignment: Assignment, factsOf: (file: ListedFile) => FileFacts | null): FileTable {
  const table: FileTable = { passes: [], path: [], pass: [], frame: [], size: [], modified: [], kinds: [], kind: [], hosts: [], host: [], samples: [] };
  const [kinds, hosts] = [new Places(table.kinds), new Places(table.hosts)];
  order.passes.forEach(({ owner, pass, frames }, number) => {
    if (owner !== number) return;
    const place = table.passes.push(pass.name) - 1;
    const claims = assignment.claims[number]!;
    for (const frame of frames) {
      const files = (claims.get(frame) ?? []).map((claim) => claim.file).sort((a, b) => (a.path < b.path ? -1 : 1));
      for (const file of files) {
        const facts = factsOf(file);
        const notes = facts?.header ? notesOf(facts.header.metadata) : null;
        const [host, samples] = [notes?.get('host'), notes?.get('samples')];
        table.path.push(file.path);
        table.pass.push(place);
        table.frame.push(frame);
        table.size.push(file.size);
        table.modified.push(file.modified);
        table.kind.push(kinds.of(kindOf(facts)));
        table.host.push(host === undefined ? -1 : hosts.of(host));
        table.samples.push(samples === undefined ? null : Number(samples));
      }
    }
  });
  return table;
}

function kindOf(facts: FileFacts | null): string {
  if (!facts?.header) return '';
  const { width, height, channels, compression } = facts.header;
  const depth = channels[0]?.depth ?? '';
  return [`${width} x ${height}`, /^\d/.test(depth) ? `${depth} bit` : depth, compression].filter(Boolean).join(', ');
}

/** Texts that come again and again, each kept once. */
class Places {
  private readonly texts: string[];
  private readonly places = new Map<string, number>();

  constructor(texts: string[]) {
    this.texts = texts;
  }

  of(text: string): number {
    const known = this.places.get(text);
    if (known !== undefined) return known;
    const place = this.texts.push(text) - 1;
    this.places.set(text, place);
    return place;
  }
}

/** Rows of one pass: the first, and the one behind the last. */
export function rowsOfPass(table: FileTable, passName: string): readonly [from: number, to: number] {
  const pass = table.passes.indexOf(passName);
  if (pass < 0) return [0, 0];
  return [firstRow(table, pass, -Infinity), firstRow(table, pass + 1, -Infinity)];
}

/**
 * The rows of the files that a pass shows, frame by frame: where several claim a frame, the one that is named as
 * ordered, else the first.
 */
export function shownRows(table: FileTable, { pass, pattern }: Pick<OrderedPass, 'pass' | 'pattern'>): number[] {
  const rows: number[] = [];
  const [from, to] = rowsOfPass(table, pass.name);
  for (let row = from; row < to; row++) {
    const last = rows.at(-1);
    if (last === undefined || table.frame[last] !== table.frame[row]) rows.push(row);
    else if (table.path[row] === framePath(pattern, table.frame[row]!)) rows[rows.length - 1] = row;
  }
  return rows;
}

/** What the files that the passes show hold: those whose checksum is known. @param sha256Of a file by its path */
export function contentsOf(order: Order, table: FileTable, sha256Of: (path: string) => string | null): PassContents[] {
  return order.passes
    .filter(({ owner }, place) => owner === place)
    .map((ordered) => {
      const known = shownRows(table, ordered).flatMap((row) => {
        const sha256 = sha256Of(table.path[row]!);
        return sha256 === null ? [] : [{ frame: table.frame[row]!, content: sha256.slice(0, CONTENT_DIGITS) }];
      });
      return { pass: ordered.pass.name, frames: known.map(({ frame }) => frame), contents: known.map(({ content }) => content) };
    });
}

/** The files that stand for a frame of a pass. */
export function pathsOfFrame(table: FileTable, passName: string, frame: number): string[] {
  const pass = table.passes.indexOf(passName);
  if (pass < 0) return [];
  return table.path.slice(firstRow(table, pass, frame), firstRow(table, pass, frame + 1));
}

/** The first row that is not before this frame of this pass. */
function firstRow({ pass, frame }: FileTable, wantedPass: number, wantedFrame: number): number {
  let [low, high] = [0, pass.length];
  while (low < high) {
    const middle = (low + high) >> 1;
    if (pass[middle] < wantedPass || (pass[middle] === wantedPass && frame[middle] < wantedFrame)) low = middle + 1;
    else high = middle;
  }
  return low;
}
