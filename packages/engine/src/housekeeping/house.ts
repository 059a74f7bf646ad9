import { readdir, rm, rmdir, stat, unlink } from 'node:fs/promises';
import path from 'node:path';
import { describeError, MintError } from '@mint-tally/core';
import { HeldFolder } from '@mint-tally/disk';
import {
  aloneInTheHouse,
  findShot,
  forgetOldRecords,
  keptDenoiseTests,
  knownContents,
  listPackagePlaces,
  listShotPlaces,
  runningAmong,
  saveHouse,
  type Database,
  type House,
} from '@mint-tally/store';
import type { Config } from '../config/config.ts';
import { referencesFolder } from '../denoising/references.ts';
import { testFolder } from '../denoising/test-place.ts';
import { findRoot, resolveWritable } from '../files/roots.ts';
import { goesAt, keptIn, letGo } from '../mending/kept.ts';
import { unfinishedOf } from '../packaging/unfinished.ts';

const DAY = 86_400_000;
const FIRST_AFTER = 60_000;
const EVERY = 3_600_000;
/** Tests of the filters whose pictures are kept, of each shot. */
const KEPT_TESTS = 3;

interface Amount {
  files: number;
  bytes: number;
}

/**
 * Keeps what Mint Tally itself has on disk and in the database from growing for ever: once an hour what
 * nobody needs any more goes, each kind after its time. What a person might want, files that mends set
 * aside, is shown with the day on which it goes.
 */
export class Housekeeper {
  private readonly database: Database;
  private readonly config: Config;
  private readonly report: (line: string) => void;
  private timer: NodeJS.Timeout | null = null;
  private working: Promise<unknown> = Promise.resolve();
  private stopping = false;

  constructor(database: Database, config: Config, report: (line: string) => void) {
    this.database = database;
    this.config = config;
    this.report = report;
  }

  start(): void {
    this.plan(FIRST_AFTER);
  }

  private plan(after: number): void {
    this.timer = setTimeout(() => {
      this.working = aloneInTheHouse(this.database, () => this.keep(Date.now()).then(() => undefined))
        .catch((thrown: unknown) => this.report(`Housekeeping: ${describeError(thrown)}`))
        .finally(() => {
          if (!this.stopping) this.plan(EVERY);
        });
    }, after);
    this.timer.unref();
  }

  async stop(): Promise<void> {
    this.stopping = true;
    if (this.timer) clearTimeout(this.timer);
    await this.working;
  }

  /** One round. @param now milliseconds since 1970 */
  async keep(now: number): Promise<House> {
    const { keep } = this.config;
    const records = await forgetOldRecords(this.database, new Date(now - keep.records * DAY));
    const pictures = await this.keepPictures(now - keep.pictures * DAY);
    const setAside = await this.keepSetAside(now);
    const unfinished = (await this.clearTests()) + (await this.clearDenoiseTests()) + (await this.clearPackages());
    const house: House = {
      at: now,
      records,
      pictures: pictures.kept,
      setAside: setAside.kept,
      gone: { pictures: pictures.gone, setAside: setAside.gone, unfinished },
    };
    await saveHouse(this.database, house);
    return house;
  }

  /** Small pictures of content that no shot has any more go when they are older than this. */
  private async keepPictures(before: number): Promise<{ kept: Amount; gone: Amount }> {
    const top = path.join(this.config.dataFolder, 'proxies');
    const [kept, gone] = [none(), none()];
    for (const folder of await namesIn(top)) {
      if (this.stopping) break;
      const names = await namesIn(path.join(top, folder));
      const known = await knownContents(this.database, [...new Set(names.map((name) => name.slice(0, 64)))]);
      for (const name of names) {
        const file = path.join(top, folder, name);
        const stats = await stat(file).catch(() => null);
        if (!stats?.isFile()) continue;
        const isOld = stats.mtimeMs < before && !known.has(name.slice(0, 64));
        if (isOld) await unlink(file);
        add(isOld ? gone : kept, stats.size);
      }
    }
    return { kept, gone };
  }

  /** What mends set aside goes after its time. */
  private async keepSetAside(now: number): Promise<{ kept: House['setAside']; gone: Amount }> {
    const kept: House['setAside'] = [];
    const gone = await this.keepOldMerges(now);
    for (const { id, root, folder } of await listShotPlaces(this.database)) {
      if (this.stopping) break;
      try {
        const place = resolveWritable(findRoot(this.config.roots, root), folder);
        for (const { mend, files, bytes } of await keptIn(place)) {
          const goes = goesAt(mend, this.config.keep.setAside);
          // What was broken off is the shot's own: it is gone on with, or taken back.
          if (goes > now || !mend.isEnded || mend.isUndoing) kept.push({ shotId: id, says: mend.head.says, files: files.length, bytes, goesAt: goes });
          else {
            const went = await letGo(place, mend.head.id, new Date(now));
            gone.files += went.files;
            gone.bytes += went.bytes;
          }
        }
      } catch (thrown) {
        // A disk that is away, a folder that is being mended: next time.
        if (!(thrown instanceof MintError)) throw thrown;
      }
    }
    return { kept, gone };
  }

  /** What merges set aside before they went the way of every mend. */
  private async keepOldMerges(now: number): Promise<Amount> {
    const top = path.join(this.config.dataFolder, 'merges');
    const gone = none();
    for (const name of await namesIn(top)) {
      const folder = path.join(top, name);
      const size = await sizeOf(folder);
      const stats = await stat(folder).catch(() => null);
      if (stats === null || stats.mtimeMs + this.config.keep.setAside * DAY > now) continue;
      await rm(folder, { recursive: true, force: true });
      gone.files += size.files;
      gone.bytes += size.bytes;
    }
    return gone;
  }

  /** Test frames are thrown away with their job; those of a job that fell are left. */
  private async clearTests(): Promise<number> {
    const top = path.join(this.config.dataFolder, 'tests');
    const jobs = (await namesIn(top)).map(Number).filter(Number.isInteger);
    const running = await runningAmong(this.database, jobs);
    const left = jobs.filter((job) => !running.has(job));
    for (const job of left) await rm(path.join(top, String(job)), { recursive: true, force: true });
    return left.length;
  }

  /** Tests of the filters go when newer ones of the shot are there, or the shot is not; with it go the renders that they were held against. */
  private async clearDenoiseTests(): Promise<number> {
    const top = testFolder(this.config);
    const kept = await keptDenoiseTests(this.database, KEPT_TESTS);
    const old = (await namesIn(top)).map(Number).filter((run) => Number.isInteger(run) && !kept.has(run));
    for (const run of old) await rm(path.join(top, String(run)), { recursive: true, force: true });
    const references = referencesFolder(this.config);
    for (const shot of await namesIn(references))
      if (!(await findShot(this.database, Number(shot)))) await rm(path.join(references, shot), { recursive: true, force: true });
    return old.length;
  }

  /** Packages that jobs which are over left unfinished. */
  private async clearPackages(): Promise<number> {
    let cleared = 0;
    const folders = new Map<string, { root: string; folder: string }>();
    for (const { root, folder } of await listPackagePlaces(this.database)) {
      const parent = path.posix.dirname(folder) === '.' ? '' : path.posix.dirname(folder);
      folders.set(`${root}/${parent}`, { root, folder: parent });
    }
    for (const { root, folder } of folders.values()) cleared += await this.clearUnfinished(root, folder);
    return cleared;
  }

  private async clearUnfinished(root: string, folder: string): Promise<number> {
    let parent: HeldFolder;
    try {
      parent = HeldFolder.open(resolveWritable(findRoot(this.config.roots, root), folder), '');
    } catch (thrown) {
      // The folder is gone, or the root is not ours to write any more: nothing is to be cleared there.
      if (thrown instanceof MintError) return 0;
      throw thrown;
    }
    try {
      return await clearUnfinishedIn(this.database, parent, null);
    } finally {
      parent.close();
    }
  }
}

/**
 * Takes away packages and movies that jobs which are over left unfinished in a folder; not those of commands, which are no jobs.
 *
 * @param ownJob whose earlier tries are cleared as well, although it runs; null for one that goes on with them
 * @returns how many
 */
export async function clearUnfinishedIn(database: Database, parent: HeldFolder, ownJob: number | null): Promise<number> {
  const left = (await readdir(parent.where())).flatMap((name) => {
    const owner = unfinishedOf(name);
    return owner === null || owner === 0 ? [] : [{ name, owner }];
  });
  const running = await runningAmong(
    database,
    left.map(({ owner }) => owner),
  );
  const dead = left.filter(({ owner }) => owner === ownJob || !running.has(owner));
  for (const { name } of dead) await rm(parent.at(name), { recursive: true, force: true });
  return dead.length;
}

const none = (): Amount => ({ files: 0, bytes: 0 });

function add(amount: Amount, bytes: number): void {
  amount.files++;
  amount.bytes += bytes;
}

async function namesIn(folder: string): Promise<string[]> {
  return readdir(folder).catch(() => []);
}

async function sizeOf(folder: string): Promise<Amount> {
  const sum = none();
  for (const entry of await readdir(folder, { withFileTypes: true, recursive: true }).catch(() => [])) {
    if (entry.isFile()) add(sum, (await stat(path.join(entry.parentPath, entry.name))).size);
  }
  // Empty folders are nothing to keep.
  if (sum.files === 0) await rmdir(folder).catch(() => undefined);
  return sum;
}
