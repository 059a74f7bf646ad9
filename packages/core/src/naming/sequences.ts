import { MAXIMUM_FRAME_NUMBER } from '../ranges/index.ts';
import { inferPadding } from './padding.ts';
import type { NamePattern } from './pattern.ts';

/** One file of a sequence: its path, its frame, and the digits as they are written. */
export interface SequenceFile {
  readonly path: string;
  readonly frame: number;
  /** The digits without a sign. */
  readonly digits: string;
}

/** Files that share everything but the frame number. */
export interface FoundSequence extends NamePattern {
  /** Ascending by frame; two files may carry one frame (7 and 007). */
  readonly files: readonly SequenceFile[];
}

/** What grouping makes of a listing. */
export interface Grouping {
  /** Largest first, then by name. A single numbered file is a sequence of one. */
  readonly sequences: readonly FoundSequence[];
  /** Files that carry no frame number. */
  readonly unnumbered: readonly string[];
}

interface SplitName {
  readonly path: string;
  readonly directory: string;
  /** Texts between the digit runs: one more than there are digit runs. */
  readonly literals: readonly string[];
  readonly digitRuns: readonly string[];
}

/**
 * Groups paths into numbered sequences. Names that are alike but for their digits are looked at
 * together: the frame number is the run of digits that takes the most values among them, the
 * rightmost where that leaves a choice, and never a version (`v003`) or a part of the extension.
 *
 * @param paths relative paths with `/` between folders
 */
export function groupIntoSequences(paths: Iterable<string>): Grouping {
  const unnumbered: string[] = [];
  const families = new Map<string, SplitName[]>();
  for (const path of paths) {
    const split = splitName(path);
    if (split.digitRuns.length === 0) {
      unnumbered.push(path);
      continue;
    }
    const key = `${split.directory}\u0000${split.literals.join('\u0000')}`;
    const family = families.get(key);
    if (family) family.push(split);
    else families.set(key, [split]);
  }
  const found = new Map<string, FoundSequence>();
  for (const family of families.values()) {
    const column = frameColumn(family);
    const usable = family.filter((name) => column >= 0 && Number(name.digitRuns[column]) <= MAXIMUM_FRAME_NUMBER);
    if (usable.length < family.length) {
      const taken = new Set(usable);
      unnumbered.push(...family.filter((name) => !taken.has(name)).map((name) => name.path));
    }
    if (usable.length === 0) continue;
    for (const sequence of splitByOtherColumns(usable, column)) {
      const key = sequenceKey(sequence);
      const other = found.get(key);
      found.set(key, other ? joinSequences(other, sequence) : sequence);
    }
  }
  const sequences = [...found.values()];
  sequences.sort((a, b) => b.files.length - a.files.length || compareText(sequenceKey(a), sequenceKey(b)));
  return { sequences, unnumbered };
}

function splitName(path: string): SplitName {
  const slash = path.lastIndexOf('/');
  const name = path.slice(slash + 1);
  const dot = name.lastIndexOf('.');
  // Digits in an extension (.jp2, .mp4) are no frame number; a file called "beauty.1001" has none.
  const hasExtension = dot > 0 && /[^0-9]/.test(name.slice(dot + 1));
  const stem = hasExtension ? name.slice(0, dot) : name;
  const literals: string[] = [];
  const digitRuns: string[] = [];
  let from = 0;
  for (const match of stem.matchAll(/\d+/g)) {
    literals.push(stem.slice(from, match.index));
    digitRuns.push(match[0]);
    from = match.index + match[0].length;
  }
  literals.push(stem.slice(from) + (hasExtension ? name.slice(dot) : ''));
  return { path, directory: slash < 0 ? '' : path.slice(0, slash), literals, digitRuns };
}

/** Whether the digits behind this text are a version: a `v` that begins a word. */
function isVersionColumn(literalBefore: string): boolean {
  return /(^|[^A-Za-z])[vV]$/.test(literalBefore);
}

function frameColumn(family: readonly SplitName[]): number {
  const first = family[0]!;
  let best = -1;
  let bestValues = 0;
  for (let column = first.digitRuns.length - 1; column >= 0; column--) {
    if (isVersionColumn(first.literals[column]!)) continue;
    const values = new Set<string>();
    for (const name of family) values.add(name.digitRuns[column]!);
    if (values.size > bestValues) {
      best = column;
      bestValues = values.size;
    }
  }
  return best;
}

function splitByOtherColumns(family: readonly SplitName[], column: number): FoundSequence[] {
  const { directory, literals } = family[0]!;
  // A minus belongs to the number when it follows a separator or begins the name: "a.-0005" but
  // not "a-0005", where it is the separator.
  const negative = /(^|[._ ])-$/.test(literals[column]!);
  const groups = new Map<string, SplitName[]>();
  for (const name of family) {
    const key = name.digitRuns.filter((_, i) => i !== column).join('\u0000');
    const group = groups.get(key);
    if (group) group.push(name);
    else groups.set(key, [name]);
  }
  return [...groups.values()].map((group) => {
    const runs = group[0]!.digitRuns;
    let prefix = literals[0]!;
    for (let i = 0; i < column; i++) prefix += runs[i]! + literals[i + 1]!;
    let suffix = literals[column + 1]!;
    for (let i = column + 1; i < runs.length; i++) suffix += runs[i]! + literals[i + 1]!;
    const files = group
      .map((name) => {
        const digits = name.digitRuns[column]!;
        const value = Number(digits);
        return { path: name.path, frame: negative && value !== 0 ? -value : value, digits };
      })
      .sort(byFrame);
    const padding = inferPadding(files.map((file) => file.digits));
    return { directory, prefix: negative ? prefix.slice(0, -1) : prefix, suffix, padding, files };
  });
}

/** Negative and positive frames of one sequence differ by the sign in their names, and meet here. */
function joinSequences(a: FoundSequence, b: FoundSequence): FoundSequence {
  const files = [...a.files, ...b.files].sort(byFrame);
  return { ...a, files, padding: inferPadding(files.map((file) => file.digits)) };
}

function byFrame(a: SequenceFile, b: SequenceFile): number {
  return a.frame - b.frame || compareText(a.path, b.path);
}

function sequenceKey(sequence: FoundSequence): string {
  return `${sequence.directory}/${sequence.prefix}#${sequence.suffix}`;
}

function compareText(a: string, b: string): number {
  return a < b ? -1 : a > b ? 1 : 0;
}
