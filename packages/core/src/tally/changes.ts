import { z } from 'zod';

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
