import { shownRows, type FileTable, type Order } from '@mint-tally/core';
import { isKnownStill, type InspectedFile, type KnownFile } from '../counting/known-files.ts';
import { listOne } from '../files/list-folder.ts';
import { inspectFile, type FileInspection } from '../inspection/inspect-file.ts';
import { keepPictures } from '../inspection/inspect-tasks.ts';
import { layersOfFiles, type Layer } from '../stills/layers.ts';
import type { AssayPlan, FramePlan } from './plan.ts';

/** What a count wants to know of the files that an assay reads: so each is read and decoded once for both. */
export interface LooksWanted {
  /** What is known already; of other files, and of those that have changed since, it is wanted. */
  readonly known: ReadonlyMap<string, KnownFile>;
  /** Where small pictures are kept; null to make none. */
  readonly proxyFolder: string | null;
  readonly onInspected: (file: InspectedFile) => void | Promise<void>;
  /** Told of a picture that could not be kept. */
  readonly onPictureLost?: (why: string) => void;
}

/** A file that is to be looked into when it is read, as it was listed. */
interface FileToLookInto extends Pick<KnownFile, 'size' | 'modified'> {
  readonly layers: readonly Layer[];
}

/** Files to look into, by path, as they are sent to a thread. */
export interface Looks {
  readonly proxyFolder: string | null;
  readonly files: Readonly<Record<string, FileToLookInto>>;
}

/** What was found of a file, and why no small picture of it could be kept. */
export interface Look {
  readonly file: InspectedFile;
  readonly pictureProblem: string | null;
}

/** Every file that stands for an ordered frame and of which a count wants to know more. */
export function looksAt(folder: string, order: Order, table: FileTable, { known, proxyFolder }: LooksWanted): Looks {
  const layers = layersOfFiles(order);
  const files: Record<string, FileToLookInto> = {};
  order.passes.forEach((ordered, index) => {
    if (ordered.owner !== index) return;
    for (const row of shownRows(table, ordered)) {
      const listed = listOne(folder, table.path[row]!);
      if (listed.kind === 'file' && !isKnownStill(known.get(listed.path), listed, 'full'))
        files[listed.path] = { size: listed.size, modified: listed.modified, layers: layers[index]! };
    }
  });
  return { proxyFolder, files };
}

/** Those of the files that some frames are made of. */
export function looksOf({ proxyFolder, files }: Looks, frames: readonly FramePlan[]): Looks {
  const own = frames.flatMap(filesOf).flatMap((path) => (files[path] ? [[path, files[path]] as const] : []));
  return { proxyFolder, files: Object.fromEntries(own) };
}

function filesOf({ colours, features, halves, beside, lights }: FramePlan): string[] {
  const all = [...Object.values(colours), ...Object.values(features), ...(halves ?? []), ...Object.values(beside), ...lights];
  return all.flatMap((file) => (file ? [file.path] : []));
}

/** Remembers size and time of all files of a plan. @returns tells whether one of them is another by then */
export function changesOf(folder: string, { frames }: AssayPlan): () => boolean {
  const said = (path: string) => {
    const { size, modified, kind } = listOne(folder, path);
    return `${kind} ${size} ${modified}`;
  };
  const before = new Map(frames.flatMap(filesOf).map((path) => [path, said(path)] as const));
  return () => [...before].some(([path, was]) => said(path) !== was);
}

/** Looks into files as they are read. */
export class LookingReader {
  private readonly folder: string;
  private readonly looks: Looks;
  private found: (FileInspection & { readonly path: string })[] = [];
  private readonly done = new Set<string>();

  constructor(folder: string, looks: Looks) {
    [this.folder, this.looks] = [folder, looks];
  }

  /** Null where the file is not to be looked into, or was already. */
  read(path: string): { readonly frame: FileInspection['frame']; readonly size: number } | null {
    const listed = this.looks.files[path];
    if (!listed || this.done.has(path)) return null;
    this.done.add(path);
    const found = inspectFile(this.folder, path, 'full');
    this.found.push({ ...found, path });
    return { frame: found.frame, size: listed.size };
  }

  /** Keeps the small pictures of what was read since, and lets it go. */
  async take(): Promise<Look[]> {
    const { folder, looks, found } = this;
    this.found = [];
    const taken: Look[] = [];
    for (const { path, facts, sha256, frame } of found) {
      const { size, modified, layers } = looks.files[path]!;
      const proxies = looks.proxyFolder === null ? null : { folder: looks.proxyFolder, layers };
      const pictureProblem = await keepPictures({ folder, path, level: 'full', proxies }, { facts, sha256, frame });
      taken.push({ file: { path, size, modified, facts, sha256 }, pictureProblem });
    }
    return taken;
  }
}
