import * as z from 'zod';

/** At most so many paths of each kind are kept; the counts are of all. */
const MAXIMUM_PATHS = 500;

const someFilesSchema = z.object({ count: z.number(), paths: z.array(z.string()) });

/** What is different in a shot's folder since the last count, of the files that stand for ordered frames. */
export const changesSchema = z.object({ arrived: someFilesSchema, replaced: someFilesSchema, vanished: someFilesSchema });
export type Changes = z.output<typeof changesSchema>;

/** A file's size and time, as far as a count goes by them. */
interface Stamp {
  readonly size: number;
  readonly modified: number;
}

/** Compares what was known with what is there. */
export function findChanges(
  known: ReadonlyMap<string, Stamp>,
  there: Iterable<Stamp & { readonly path: string }>,
  isListed: (path: string) => boolean,
): Changes {
  const arrived: string[] = [];
  const replaced: string[] = [];
  for (const { path, size, modified } of there) {
    const before = known.get(path);
    if (!before) arrived.push(path);
    else if (before.size !== size || before.modified !== modified) replaced.push(path);
  }
  const vanished = [...known.keys()].filter((path) => !isListed(path));
  return { arrived: some(arrived), replaced: some(replaced), vanished: some(vanished) };
}

function some(paths: string[]): { count: number; paths: string[] } {
  return { count: paths.length, paths: paths.sort().slice(0, MAXIMUM_PATHS) };
}

/** Whether nothing is different. */
export function isUnchanged({ arrived, replaced, vanished }: Changes): boolean {
  return arrived.count + replaced.count + vanished.count === 0;
}

const WORDS = { arrived: 'new', replaced: 'replaced', vanished: 'gone' } as const;
/** So many files are named; of the others only the number is told. */
const NAMED = 3;

/** Says in a line what is different: how many files, and the first by name; empty when nothing is. */
export function describeChanges(changes: Changes): string {
  return (Object.keys(WORDS) as (keyof typeof WORDS)[])
    .filter((kind) => changes[kind].count > 0)
    .map((kind) => {
      const { count, paths } = changes[kind];
      const named = paths.slice(0, NAMED).join(', ');
      const rest = count - Math.min(NAMED, paths.length);
      return `${count.toLocaleString('en')} ${count === 1 ? 'file' : 'files'} ${WORDS[kind]} (${named}${rest > 0 ? ` and ${rest.toLocaleString('en')} more` : ''})`;
    })
    .join('; ');
}

/** Several changes one after the other as one; a file that changed twice is told once, as it was told last. */
export function joinChanges(list: readonly Changes[]): Changes {
  const kinds = Object.keys(WORDS) as (keyof typeof WORDS)[];
  const last = new Map<string, keyof typeof WORDS>();
  const unnamed = { arrived: 0, replaced: 0, vanished: 0 };
  for (const changes of list) {
    for (const kind of kinds) {
      unnamed[kind] += changes[kind].count - changes[kind].paths.length;
      for (const path of changes[kind].paths) last.set(path, kind);
    }
  }
  const of = (kind: keyof typeof WORDS) => {
    const named = some([...last].filter(([, told]) => told === kind).map(([path]) => path));
    return { ...named, count: named.count + unnamed[kind] };
  };
  return { arrived: of('arrived'), replaced: of('replaced'), vanished: of('vanished') };
}
