import { FACTS_EDITION, SharedParts, type FileFacts, type ListedFile, type TallyLevel } from '@mint-tally/core';

/** What is already known of a file from an earlier look. */
export interface KnownFile {
  readonly facts: FileFacts;
  readonly size: number;
  readonly modified: number;
  /** Of the whole file; null unless every byte was read. */
  readonly sha256: string | null;
}

/** A file that was looked at in this count. */
export interface InspectedFile extends KnownFile {
  readonly path: string;
}

/** What is known of a file once it has been looked at, now or earlier. */
type Looked = Pick<KnownFile, 'facts' | 'sha256'>;

/** What is known of every file of a count; in memory until the tally is made. */
export class LookedAt {
  private readonly files = new Map<string, Looked>();
  private readonly shared = new SharedParts();

  add(path: string, { facts, sha256 }: Looked): void {
    this.files.set(path, { facts: this.shared.share(facts), sha256 });
  }

  /** What was known before is kept as it is; who knew it has seen to the rest. */
  keep(path: string, known: Looked): void {
    this.files.set(path, known);
  }

  get(path: string): Looked | undefined {
    return this.files.get(path);
  }

  get isEmpty(): boolean {
    return this.files.size === 0;
  }
}

/** Keeps what is known of files that have not changed since; gives those that must be opened. */
export function selectFiles(
  files: readonly ListedFile[],
  level: TallyLevel,
  known: ReadonlyMap<string, KnownFile> | undefined,
  looked: LookedAt,
): ListedFile[] {
  const byPath = new Map(files.map((file) => [file.path, file]));
  return [...byPath.values()].filter((file) => {
    const before = known?.get(file.path);
    if (!isKnownStill(before, file, level)) return true;
    looked.keep(file.path, before);
    return false;
  });
}

/** Whether what is known of a file from before is all that a look at it would find. */
export function isKnownStill(before: KnownFile | undefined, file: ListedFile, level: TallyLevel): before is KnownFile {
  const unchanged = before && before.size === file.size && before.modified === file.modified && file.kind === 'file';
  // What could not be read, or was just being written, may be well now without having changed.
  const settled = before?.facts.problem?.code !== 'unreadable' && before?.facts.problem?.code !== 'still-writing';
  const isOld = before !== undefined && before.facts.edition < FACTS_EDITION;
  return unchanged === true && settled && !isOld && (level !== 'full' || before!.facts.level === 'full');
}
