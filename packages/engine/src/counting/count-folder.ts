import { createHash } from 'node:crypto';
import path from 'node:path';
import {
  assignFiles,
  FACTS_EDITION,
  filesToInspect,
  findChanges,
  impliedBrief,
  contentsOf,
  makeFileTable,
  MintError,
  setAsideComing,
  tally,
  TALLY_EDITION,
  withImpliedKinds,
  workOutOrder,
  type Assignment,
  type Brief,
  type Changes,
  type Coming,
  type FileTable,
  type PassContents,
  type ListedFile,
  type Order,
  type Tally,
  type TallyLevel,
} from '@mint-tally/core';
import { listFolder, type FolderListing } from '../files/list-folder.ts';
import { stopgapsIn } from '../mending/stopgaps.ts';
import { layersOfFiles, type Layer } from '../stills/layers.ts';
import type { InspectionTask } from '../inspection/inspect-tasks.ts';
import type { InspectionPool } from '../inspection/pool.ts';
import { LookedAt, selectFiles, type InspectedFile, type KnownFile } from './known-files.ts';

/** Raised when a folder holds nothing to count and nobody ordered anything. */
export class NothingToCountError extends MintError {
  constructor(folder: string) {
    super('nothing-to-count', `${folder} holds no numbered frames, and there is no brief.`, {
      subject: folder,
      remedy: 'Name a folder of frames, or a brief with --brief.',
    });
  }
}

/** A file that stands for an ordered frame. */
export interface CountedFile {
  readonly path: string;
  readonly size: number;
  readonly sha256: string | null;
}

export interface CountProgress {
  /** Files looked at so far, of those that had to be. */
  readonly done: number;
  readonly total: number;
  readonly bytesDone: number;
  readonly bytesTotal: number;
}

/** What is kept of a count, so that the next one can stand on it. */
export interface PreviousCount {
  readonly listing: string;
  readonly tally: Tally;
}

export interface CountOptions {
  /** Real path. */
  readonly folder: string;
  /** Null to take the folder's own sequences for what is ordered. */
  readonly brief: Brief | null;
  readonly level: TallyLevel;
  readonly pool: InspectionPool | null;
  readonly proxyFolder: string | null;
  /** Milliseconds since 1970. */
  readonly now: number;
  /** Frames that somebody is still rendering. */
  readonly coming?: Coming;
  /** What is known of files from earlier counts; asked for only when something has changed. */
  readonly known?: () => Promise<ReadonlyMap<string, KnownFile>>;
  /** The last count; when nothing has changed since, it stands. */
  readonly previous?: PreviousCount | null;
  readonly stopped?: () => boolean;
  /** Asked before a file is opened: one that somebody else is about to look into is left, and then the count is not complete. */
  readonly leaves?: (file: ListedFile) => boolean;
  readonly onProgress?: (progress: CountProgress) => void;
  readonly onInspected?: (file: InspectedFile) => void | Promise<void>;
  /** Told of a picture that could not be kept; the count goes on without it. */
  readonly onPictureLost?: (why: string) => void;
}

export interface CountResult {
  readonly order: Order;
  readonly tally: Tally;
  /** Stands for the brief, and for names, sizes and times of everything that was listed. */
  readonly listing: string;
  /** What changed since the last count; null where nothing was known before. */
  readonly changes: Changes | null;
  /** Every file in the folder, and their bytes. */
  readonly files: number;
  readonly bytes: number;
  /** The paths of all of them. */
  readonly paths: ReadonlySet<string>;
  /** Those that stand for an ordered frame, by path; null where the last count stands. */
  readonly counted: readonly CountedFile[] | null;
  /** Every file that stands for an ordered frame, with what is listed of it; null where the last count stands. */
  readonly table: FileTable | null;
  /** What the files that the passes show hold; null where the last count stands. */
  readonly contents: readonly PassContents[] | null;
  /** Files that had to be opened; the others were known and unchanged. */
  readonly opened: number;
  /** False when the count was stopped before its end, or left files; then the tally says nothing. */
  readonly complete: boolean;
}

/**
 * Counts a folder: lists it, looks into every file that stands for an ordered frame and has
 * changed since it was last known, and makes the tally.
 *
 * @throws NothingToCountError, FileAccessError
 */
export async function countFolder(options: CountOptions): Promise<CountResult> {
  const { folder, level } = options;
  const listing = await listFolder(folder, { stats: level !== 'names' });
  let made: string | null = null;
  const digest = () => (made ??= digestOf(listing, options.brief, level));
  if (options.brief && !options.coming && options.previous && options.previous.listing === digest() && isSettled(options.previous.tally)) {
    return unchanged(workOutOrder(options.brief), options.previous.tally, listing, digest());
  }
  let brief = options.brief ?? impliedBrief(listing.files, path.basename(folder));
  if (!brief) throw new NothingToCountError(folder);
  let order = workOutOrder(brief);
  const found = assignFiles(order, listing.files, options.now);
  const assignment = options.coming ? setAsideComing(order, found, options.coming, options.now) : found;
  const looked = new LookedAt();
  const candidates = level === 'names' ? [] : filesToInspect(assignment);
  const known = level === 'names' ? undefined : await options.known?.();
  const toOpen = level === 'names' ? [] : selectFiles(candidates, level, known, looked);
  const complete = await inspect(toOpen, options, layerFinder(order, assignment), looked);
  const factsOf = (file: ListedFile) => (looked.isEmpty ? null : (looked.get(file.path)?.facts ?? null));
  if (!options.brief) {
    brief = withImpliedKinds(brief, listing.files, factsOf);
    order = workOutOrder(brief);
  }
  const stopgaps = await stopgapsIn(folder, listing.files, level !== 'names');
  let listed: FileTable | null = null;
  const table = () => (listed ??= makeFileTable(order, assignment, factsOf));
  return {
    order,
    tally: tally({
      order,
      listing: listing.files,
      assignment,
      level,
      isImplied: !options.brief,
      coming: options.coming,
      stopgaps,
      unreadable: listing.unreadable,
      factsOf,
      contentOf: (file) => looked.get(file.path)?.sha256 ?? null,
    }),
    // Worked out only where somebody keeps it, like the paths.
    get listing() {
      return digest();
    },
    changes: known && known.size > 0 ? changesSince(known, candidates, listing.files) : null,
    files: listing.files.length,
    bytes: listing.files.reduce((sum, file) => sum + file.size, 0),
    get paths() {
      return new Set(listing.files.map((file) => file.path));
    },
    get counted() {
      return [...new Set(candidates)]
        .map(({ path, size }) => ({ path, size, sha256: looked.get(path)?.sha256 ?? null }))
        .sort((a, b) => (a.path < b.path ? -1 : 1));
    },
    get table() {
      return table();
    },
    get contents() {
      return contentsOf(order, table(), (path) => looked.get(path)?.sha256 ?? null);
    },
    opened: toOpen.length,
    complete,
  };
}

/** Findings that may be gone by themselves, without a file having changed. */
const UNSETTLED: ReadonlySet<string> = new Set(['unreadable', 'still-writing', 'coming-frame']);

function isSettled(tally: Tally): boolean {
  return tally.findings.every(({ code }) => !UNSETTLED.has(code));
}

function digestOf(listing: FolderListing, brief: Brief | null, level: TallyLevel): string {
  const hash = createHash('sha256').update(JSON.stringify([FACTS_EDITION, TALLY_EDITION, level, brief, listing.unreadable]));
  let lines = '';
  for (const { path: name, size, modified, kind } of listing.files) {
    lines += `${name}\0${size}\0${modified}\0${kind}\n`;
    if (lines.length > 1 << 16) {
      hash.update(lines);
      lines = '';
    }
  }
  return hash.update(lines).digest('hex');
}

/** The last count again, for a folder in which nothing has changed. */
function unchanged(order: Order, tally: Tally, listing: FolderListing, digest: string): CountResult {
  const nothing = { count: 0, paths: [] };
  return {
    order,
    tally,
    listing: digest,
    changes: { arrived: nothing, replaced: nothing, vanished: nothing },
    files: listing.files.length,
    bytes: listing.files.reduce((sum, file) => sum + file.size, 0),
    get paths() {
      return new Set(listing.files.map((file) => file.path));
    },
    counted: null,
    table: null,
    contents: null,
    opened: 0,
    complete: true,
  };
}

function changesSince(known: ReadonlyMap<string, KnownFile>, candidates: readonly ListedFile[], files: readonly ListedFile[]): Changes {
  let listed: Set<string> | null = null;
  return findChanges(known, candidates, (path) => (listed ??= new Set(files.map((file) => file.path))).has(path));
}

/** Which pictures to keep of a file: one, or one for every pass that lives in it as layers. */
function layerFinder(order: Order, assignment: Assignment): (file: ListedFile) => readonly Layer[] {
  const layersOfOwner = layersOfFiles(order);
  let ownerOf: Map<string, number> | null = null;
  const findOwners = () => {
    const owners = new Map<string, number>();
    assignment.claims.forEach((claims, owner) => {
      for (const list of claims.values()) for (const claim of list) owners.set(claim.file.path, owner);
    });
    return owners;
  };
  return (file) => layersOfOwner[(ownerOf ??= findOwners()).get(file.path)!]!;
}

async function inspect(
  files: readonly ListedFile[],
  options: CountOptions,
  layers: (file: ListedFile) => readonly Layer[],
  looked: LookedAt,
): Promise<boolean> {
  const { level, pool, folder, proxyFolder } = options;
  if (level === 'names' || !pool || files.length === 0) return true;
  const byPath = new Map(files.map((file) => [file.path, file]));
  const bytesTotal = files.reduce((sum, file) => sum + file.size, 0);
  const progress = { done: 0, total: files.length, bytesDone: 0, bytesTotal };
  options.onProgress?.(progress);
  const proxiesOf = (file: ListedFile) => (proxyFolder === null ? null : { folder: proxyFolder, layers: layers(file) });
  function* tasks(): Generator<InspectionTask> {
    for (const file of files) if (!options.leaves?.(file)) yield { folder, path: file.path, level: level as 'headers' | 'full', proxies: proxiesOf(file) };
  }
  await pool.inspectAll(
    tasks(),
    async (task, { pictureProblem, ...result }) => {
      const file = byPath.get(task.path)!;
      if (pictureProblem !== null) options.onPictureLost?.(pictureProblem);
      looked.add(task.path, result);
      progress.done++;
      progress.bytesDone += file.size;
      await options.onInspected?.({ path: task.path, size: file.size, modified: file.modified, ...result });
      options.onProgress?.({ ...progress });
    },
    options.stopped,
  );
  return progress.done === files.length;
}
