import { closeSync, fsyncSync, openSync, readFileSync, writeSync } from 'node:fs';
import { readdir, readFile } from 'node:fs/promises';
import path from 'node:path';
import { mendStepSchema, mergeWays, MintError, SET_ASIDE } from '@mint-tally/core';
import { HeldFolder, writeWhole } from '@mint-tally/disk';
import * as z from 'zod';

const JOURNAL = 'journal.jsonl';

const headSchema = z.object({
  kind: z.literal('mend'),
  id: z.string(),
  /** ISO 8601. */
  at: z.string(),
  actor: z.string(),
  /** What was asked for, in words. */
  says: z.string(),
  /** Stands for the plan as it was previewed. */
  seen: z.string(),
  steps: z.array(mendStepSchema),
  moves: z.array(z.object({ from: z.string(), to: z.string(), way: z.enum([...mergeWays, 'make']), step: z.number().int() })),
  /** Folders that the mend makes: they go when it is taken back. */
  made: z.array(z.string()),
});
export type MendHead = Readonly<z.output<typeof headSchema>>;

const lineSchema = z.discriminatedUnion('kind', [
  headSchema,
  /** A move is about to be made of a file with this checksum. */
  z.object({ kind: z.literal('begun'), move: z.number().int(), sha256: z.string() }),
  z.object({ kind: z.literal('done'), move: z.number().int() }),
  /** All moves are made. */
  z.object({ kind: z.literal('ended') }),
  /** From here on it is taken back. */
  z.object({ kind: z.literal('undoing') }),
  z.object({ kind: z.literal('undone'), move: z.number().int() }),
  /** Somebody wants what was set aside kept until then, ISO 8601; null for as long as is usual. */
  z.object({ kind: z.literal('keep'), until: z.string().nullable() }),
  /** What was set aside is taken away: from here on there is no way back. */
  z.object({ kind: z.literal('let-go'), at: z.string() }),
]);
type Line = z.output<typeof lineSchema>;

/** What a journal says of a mend. */
export interface MendRecord {
  readonly head: MendHead;
  /** Checksums of the files whose move was begun, by move. */
  readonly begun: ReadonlyMap<number, string>;
  readonly done: ReadonlySet<number>;
  readonly undone: ReadonlySet<number>;
  readonly isEnded: boolean;
  readonly isUndoing: boolean;
  /** Until when what was set aside is kept, ISO 8601; null for as long as is usual. */
  readonly keepUntil: string | null;
  /** When it was let go, ISO 8601; null while it is kept. */
  readonly letGoAt: string | null;
}

/** Raised when a journal cannot be read: then nothing is done by it. */
export class JournalError extends MintError {
  constructor(file: string, why: string) {
    super('mend-journal', `${file} is no journal of a mend: ${why}`, { subject: file, remedy: 'Look at it by hand; nothing has been changed.' });
  }
}

/** A journal that is written to: every line is on the disk before what it announces is done. */
export class MendJournal {
  private readonly descriptor: number;

  private constructor(descriptor: number) {
    this.descriptor = descriptor;
  }

  /** Begins the journal of a mend. @throws FileAccessError */
  static async begin(folder: string, head: Omit<MendHead, 'kind'>): Promise<MendJournal> {
    const place = HeldFolder.open(folder, `${SET_ASIDE}/${head.id}`);
    try {
      // Whole or not at all: a journal without its first line says nothing.
      await writeWhole(place, JOURNAL, `${JSON.stringify({ kind: 'mend', ...head })}\n`);
      place.sync();
      return new MendJournal(openSync(place.at(JOURNAL), 'a'));
    } finally {
      place.close();
    }
  }

  /** Goes on with the journal of a mend. @throws FileAccessError */
  static reopen(folder: string, id: string): MendJournal {
    const place = HeldFolder.open(folder, `${SET_ASIDE}/${id}`);
    try {
      const descriptor = openSync(place.at(JOURNAL), 'a');
      // What a fall left in the middle of a line must not be joined with the next one.
      if (!readFileSync(place.at(JOURNAL), 'utf8').endsWith('\n')) writeSync(descriptor, '\n');
      return new MendJournal(descriptor);
    } finally {
      place.close();
    }
  }

  write(line: Exclude<Line, { kind: 'mend' }>): void {
    writeSync(this.descriptor, `${JSON.stringify(line)}\n`);
    fsyncSync(this.descriptor);
  }

  close(): void {
    closeSync(this.descriptor);
  }
}

/** The mends of a folder that have a journal, the oldest first. @throws JournalError */
export async function readMends(folder: string): Promise<MendRecord[]> {
  return (await placesIn(folder)).flatMap(({ name }) => readMend(path.join(folder, SET_ASIDE, name, JOURNAL)) ?? []);
}

/** Whether the journals of a folder hold a text: cheaper than to read what they say, where most hold nothing of the kind. */
export async function journalsHold(folder: string, text: string): Promise<boolean> {
  const wanted = Buffer.from(text);
  for (const { name } of await placesIn(folder)) {
    try {
      if ((await readFile(path.join(folder, SET_ASIDE, name, JOURNAL))).includes(wanted)) return true;
    } catch (thrown) {
      const { code } = thrown as NodeJS.ErrnoException;
      if (code !== 'ENOENT' && code !== 'ENOTDIR') throw thrown;
    }
  }
  return false;
}

/** What the next mend of a folder is called: they are counted, since two may come in one moment. @param now milliseconds since 1970 */
export async function nextMendId(folder: string, now: number): Promise<string> {
  const last = (await placesIn(folder)).at(-1)?.number ?? 0;
  return `${String(last + 1).padStart(4, '0')}-${new Date(now).toISOString().replace(/[-:]|\.\d+/g, '')}`;
}

/** The folders of mends by their number. */
async function placesIn(folder: string): Promise<{ name: string; number: number }[]> {
  const names = await readdir(path.join(folder, SET_ASIDE)).catch((thrown: unknown) => {
    if ((thrown as NodeJS.ErrnoException).code === 'ENOENT') return [];
    throw thrown;
  });
  const places = names.flatMap((name) => (/^\d+-/.test(name) ? [{ name, number: parseInt(name, 10) }] : []));
  return places.sort((a, b) => a.number - b.number);
}

function readMend(file: string): MendRecord | null {
  let text: string;
  try {
    text = readFileSync(file, 'utf8');
  } catch (thrown) {
    const { code } = thrown as NodeJS.ErrnoException;
    if (code === 'ENOENT' || code === 'ENOTDIR') return null;
    throw thrown;
  }
  const [first, ...rest] = text.split('\n').flatMap((line, i, all) => readLine(file, line, i >= all.length - 2));
  if (first?.kind !== 'mend') throw new JournalError(file, 'it does not begin with a plan.');
  const begun = new Map<number, string>();
  const [done, undone] = [new Set<number>(), new Set<number>()];
  let [isEnded, isUndoing] = [false, false];
  let keepUntil: string | null = null;
  let letGoAt: string | null = null;
  for (const line of rest) {
    if (line.kind === 'begun') begun.set(line.move, line.sha256);
    else if (line.kind === 'done') done.add(line.move);
    else if (line.kind === 'undone') undone.add(line.move);
    else if (line.kind === 'ended') isEnded = true;
    else if (line.kind === 'undoing') isUndoing = true;
    else if (line.kind === 'keep') keepUntil = line.until;
    else if (line.kind === 'let-go') letGoAt = line.at;
  }
  return { head: first, begun, done, undone, isEnded, isUndoing, keepUntil, letGoAt };
}

/** A line; nothing of one that a fall cut, which may be the last, or have been ended later. */
function readLine(file: string, text: string, isLast: boolean): Line[] {
  if (text === '') return [];
  let value: unknown;
  try {
    value = JSON.parse(text);
  } catch {
    // Lines are short and written in one go: only a fall cuts them.
    if (isLast || text.length < 200) return [];
    throw new JournalError(file, 'a line in it cannot be read.');
  }
  const parsed = lineSchema.safeParse(value);
  if (!parsed.success) throw new JournalError(file, parsed.error.issues[0]!.message);
  return [parsed.data];
}
