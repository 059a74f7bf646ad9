import { createHash } from 'node:crypto';
import path from 'node:path';
import { MintError } from '@mint-tally/core';
import {
  comingFrames,
  findShot,
  forgetFiles,
  keepFileTable,
  loadFileFacts,
  newestBrief,
  newestTally,
  saveFileTable,
  savePassContents,
  saveTally,
  type SavedBrief,
  type Shot,
  type StoredFile,
  type Transaction,
} from '@mint-tally/store';
import { countFolder, type CountedFile, type CountOptions, type CountResult } from '../counting/count-folder.ts';
import { findRoot, resolveInside } from '../files/roots.ts';
import { KeptFacts } from './kept-facts.ts';
import type { JobControl } from './job-control.ts';
import type { JobTools } from './job-tools.ts';

/** A shot as it was just counted. */
export interface ShotCount {
  readonly shot: Shot;
  readonly saved: SavedBrief;
  /** Real path of the shot's folder. */
  readonly folder: string;
  readonly result: CountResult;
  /** Stands for the content of all counted files. */
  readonly content: string;
  /** Why a picture could not be kept, of the first that could not; null when all were. */
  readonly pictureLost: string | null;
  /** Writes the count down, in the transaction that ends the job. Gives the tally's number. */
  readonly save: (inside: Transaction) => Promise<number>;
}

export interface ShotCountOptions extends Pick<CountOptions, 'leaves'> {
  /** Whether every file's checksum is wanted, also where nothing has changed. */
  readonly anew?: boolean;
}

/** What a count needs of the job that it is done for. */
export type CountControl = Pick<JobControl, 'job' | 'stopReason' | 'report'>;

/**
 * Counts a shot against its newest brief at level `full`. What is found of each file is kept at
 * once, so that a stopped count goes on where it was. Null when it was stopped, or left files.
 *
 * @throws MintError
 */
export async function countShot(tools: JobTools, control: CountControl, options: ShotCountOptions = {}): Promise<ShotCount | null> {
  const { database, config, pool } = tools;
  const { shotId, actor } = control.job;
  const shot = await findShot(database, shotId);
  const saved = shot && (await newestBrief(database, shotId));
  if (!shot || !saved) throw new MintError('no-brief', 'The shot or its brief is not there any more.');
  const folder = resolveInside(findRoot(config.roots, shot.root), shot.folder);
  const last = options.anew ? null : await newestTally(database, shotId);
  const previous = last && last.briefId === saved.id && last.listing !== null ? { listing: last.listing, tally: last.tally } : null;
  let known: Map<string, StoredFile> | null = null;
  const proxyFolder = path.join(config.dataFolder, 'proxies');
  const kept = new KeptFacts(database, shotId);
  let pictureLost: string | null = null;
  const result = await countFolder({
    folder,
    brief: saved.brief,
    level: 'full',
    pool,
    proxyFolder,
    now: Date.now(),
    coming: (await comingFrames(database, shotId)) ?? undefined,
    known: async () => (known = await loadFileFacts(database, shotId)),
    previous,
    stopped: () => control.stopReason !== null,
    leaves: options.leaves,
    onProgress: (progress) => control.report({ phase: 'counting', ...progress }),
    onPictureLost: (why) => (pictureLost ??= why),
    onInspected: (file) => kept.add(file),
  });
  await kept.flush();
  if (!result.complete || control.stopReason !== null) return null;
  // Where the last count stands, so does what it stood for.
  const content = result.counted === null ? last!.content : contentOf(result.counted);
  const gone = known === null ? [] : goneFrom(known, result.paths);
  const { tally, listing, changes, files, bytes, opened, table, contents } = result;
  const save = async (inside: Transaction) => {
    await forgetFiles(inside, shotId, gone);
    const tallyId = await saveTally(inside, shotId, { briefId: saved.id, tally, listing, changes, files, bytes, opened, content }, actor);
    if (table) await saveFileTable(inside, shotId, tallyId, table);
    else await keepFileTable(inside, shotId, tallyId);
    if (contents) await savePassContents(inside, shotId, contents);
    return tallyId;
  };
  return { shot, saved, folder, result, content, pictureLost, save };
}

function goneFrom(known: ReadonlyMap<string, unknown>, there: ReadonlySet<string>): string[] {
  return [...known.keys()].filter((name) => !there.has(name));
}

/** One checksum over the paths and checksums of all files that stand for ordered frames. */
function contentOf(files: readonly CountedFile[]): string {
  const hash = createHash('sha256');
  for (const { path: name, size, sha256 } of files) hash.update(`${name}\0${size}\0${sha256 ?? ''}\n`);
  return hash.digest('hex');
}
