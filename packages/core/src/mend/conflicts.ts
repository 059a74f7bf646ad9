import { isMove, type MendConflict, type MendStep } from './steps.ts';

/** What is in a folder, as far as a plan has to know it. */
export interface Present {
  /** Whether a file is there; absolute paths are of other folders. */
  readonly has: (path: string) => boolean;
  /** The path of a file there that differs from this one in case alone; null where there is none. */
  readonly alike: (path: string) => string | null;
}

/** A listing as plans ask it. */
export function presentIn(paths: Iterable<string>): Present {
  const there = new Set(paths);
  const lower = new Map<string, string>();
  for (const path of there) lower.set(path.toLowerCase(), path);
  return { has: (path) => there.has(path), alike: (path) => (there.has(path) ? null : (lower.get(path.toLowerCase()) ?? null)) };
}

/**
 * What stands against a plan: files that are not there, two that would get one name (also where they differ in case alone, since
 * some systems cannot hold both), names that somebody else bears and keeps, and paths that leave the folder.
 */
export function findMendConflicts(steps: readonly MendStep[], present: Present): MendConflict[] {
  const conflicts: MendConflict[] = [];
  const vacated = new Set(steps.filter(isMove).map(({ from }) => from));
  const taken = new Map<string, string>();
  const comes = new Map<string, string>();
  for (const step of steps) {
    const { from, to } = step;
    const tell = (message: string, ...more: string[]) => conflicts.push({ files: [from, ...more], message });
    if (!isInside(to) || (isMove(step) && !isInside(from))) {
      tell(`${isInside(to) ? from : to} leads out of the folder.`);
      continue;
    }
    // What is made of a file may bear its name, when it makes room.
    if (from === to && !step.recipe) tell(`${from} would become itself.`);
    if (!from.startsWith('/') && !present.has(from)) tell(`${from} is not there.`);
    const before = isMove(step) ? taken.get(from) : undefined;
    if (before !== undefined) tell(`${from} cannot become both ${before} and ${to}.`);
    if (isMove(step)) taken.set(from, to);
    const other = comes.get(to.toLowerCase());
    if (other !== undefined) tell(`Both would become ${to}.`, other);
    comes.set(to.toLowerCase(), from);
    const inTheWay = present.has(to) ? to : present.alike(to);
    if (inTheWay !== null && !vacated.has(inTheWay)) tell(`${inTheWay} is there already${inTheWay === to ? '' : ', and differs in case alone'}.`, inTheWay);
  }
  return conflicts;
}

const isInside = (path: string) =>
  path !== '' &&
  !path.startsWith('/') &&
  !path.includes('\\') &&
  !path.includes('\0') &&
  path.split('/').every((part) => part !== '' && part !== '.' && part !== '..');
