import { closeSync, constants, fstatSync, fsyncSync, lstatSync, mkdirSync, openSync, readlinkSync, realpathSync } from 'node:fs';
import path from 'node:path';
import { accessError, FileAccessError, isInside, joinInside } from './paths.ts';

/**
 * A folder that is held open while something is written into it. Every name is looked up from the open
 * folder, one step at a time and never through a link, so a link that stands on the way, or is swapped in
 * at any moment, leads nowhere: what is written lands below the folder that was allowed, or not at all.
 */
export class HeldFolder {
  /** Its real path when it was opened, for messages. */
  readonly path: string;
  private readonly descriptor: number;

  private constructor(descriptor: number, real: string) {
    this.descriptor = descriptor;
    this.path = real;
  }

  /**
   * Opens a folder below one that is allowed, and makes what is missing on the way to it.
   *
   * @param limit path of the allowed folder
   * @param relative path below it, with `/` between folders; empty for the allowed folder itself. Links that
   *   are there and stay below the limit are followed; others are refused
   * @throws FileAccessError
   */
  static open(limit: string, relative: string): HeldFolder {
    let real: string;
    let top: string;
    let missing: string[];
    try {
      top = realpathSync(limit);
      [real, missing] = deepestThere(top, joinInside(top, relative));
    } catch (thrown) {
      throw accessError(thrown, relative || limit);
    }
    if (!isInside(top, real)) throw new FileAccessError('outside-root', `${relative} leads out of ${limit}.`, relative);
    let folder = HeldFolder.openAt(top, top);
    // The real path has no links in it; one that is there now was put there since.
    for (const part of path.relative(top, real).split(path.sep)) if (part !== '') folder = folder.stepInto(part);
    for (const part of missing) folder = folder.stepInto(part, true);
    return folder;
  }

  private static openAt(place: string, real: string): HeldFolder {
    try {
      return new HeldFolder(openSync(place, constants.O_RDONLY | constants.O_DIRECTORY | constants.O_NOFOLLOW), real);
    } catch (thrown) {
      const { code } = thrown as NodeJS.ErrnoException;
      if (code === 'ELOOP' || code === 'ENOTDIR')
        throw new FileAccessError('outside-root', `${real} is a link or a file where a folder should be.`, real, thrown);
      throw accessError(thrown, real);
    }
  }

  private stepInto(name: string, make = false): HeldFolder {
    try {
      if (make) this.make(name);
      return HeldFolder.openAt(this.at(name), path.join(this.path, name));
    } finally {
      this.close();
    }
  }

  private make(name: string): void {
    try {
      mkdirSync(this.at(name));
    } catch (thrown) {
      // Somebody else may just have made it; what it is, opening it tells.
      if ((thrown as NodeJS.ErrnoException).code !== 'EEXIST') throw accessError(thrown, path.join(this.path, name));
    }
  }

  /** A folder below, made with what is missing on the way. @throws FileAccessError */
  below(relative: string): HeldFolder {
    joinInside('', relative);
    let folder = HeldFolder.openAt(`/proc/self/fd/${this.descriptor}/.`, this.path);
    for (const part of relative.split('/')) if (part !== '' && part !== '.') folder = folder.stepInto(part, true);
    return folder;
  }

  /** The path of a name in the folder that is held, for as long as it is. */
  at(name: string): string {
    if (name === '' || name === '.' || name === '..' || name.includes('/') || name.includes('\0')) {
      throw new FileAccessError('outside-root', `${JSON.stringify(name)} is no name.`, name);
    }
    return `/proc/self/fd/${this.descriptor}/${name}`;
  }

  /** Whether something bears the name, be it a link that leads nowhere. */
  has(name: string): boolean {
    return lstatSync(this.at(name), { throwIfNoEntry: false }) !== undefined;
  }

  /** Where the folder is now. */
  where(): string {
    return readlinkSync(`/proc/self/fd/${this.descriptor}`);
  }

  /** Number of the disk that it lies on. */
  get disk(): number {
    return fstatSync(this.descriptor).dev;
  }

  /** Makes the names in it last: a file's own sync does not. */
  sync(): void {
    fsyncSync(this.descriptor);
  }

  close(): void {
    closeSync(this.descriptor);
  }
}

/** The real path of the deepest folder on the way that is there, and the names behind it that are not. */
function deepestThere(top: string, wanted: string): [real: string, missing: string[]] {
  const missing: string[] = [];
  let place = wanted;
  while (place !== top && lstatSync(place, { throwIfNoEntry: false }) === undefined) {
    missing.unshift(path.basename(place));
    place = path.dirname(place);
  }
  return [realpathSync(place), missing];
}
