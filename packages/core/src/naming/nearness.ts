import type { NamePattern } from './pattern.ts';

/**
 * How a name that is not the ordered one relates to it:
 * - `padding`: only the number's padding differs;
 * - `version`: only a version (`v003`) differs;
 * - `format`: only the extension differs, and names another kind of file;
 * - `name`: separators, case, the extension's case or the folder differ;
 * - `prefix`: the words before or behind the number are nearly the same.
 */
export type NameRelation = 'padding' | 'version' | 'format' | 'name' | 'prefix';

/** The parts of a name that nearness looks at. */
export type NameParts = Pick<NamePattern, 'directory' | 'prefix' | 'suffix'>;

/** Tells how a found name relates to an ordered one, or null when they have nothing in common. */
export function relateNames(found: NameParts, ordered: NameParts): NameRelation | null {
  const sameFolder = found.directory === ordered.directory;
  const sameStem = found.prefix === ordered.prefix && stemOf(found.suffix) === stemOf(ordered.suffix);
  const sameSuffix = found.suffix === ordered.suffix;
  if (sameFolder && sameStem && sameSuffix) return 'padding';
  const foundExtension = extensionOf(found.suffix);
  const orderedExtension = extensionOf(ordered.suffix);
  const sameKind = foundExtension.toLowerCase() === orderedExtension.toLowerCase();
  if (sameFolder && !sameKind && looseKey(found) === looseKey(ordered)) return 'format';
  if (!sameKind) return null;
  if (versionlessKey(found) === versionlessKey(ordered) && versionsOf(found) !== versionsOf(ordered)) return 'version';
  if (looseKey(found) === looseKey(ordered)) return 'name';
  if (areTwoViews(looseKey(found), looseKey(ordered))) return null;
  return isNearPrefix(looseKey(found), looseKey(ordered)) ? 'prefix' : null;
}

/** Lower-case extension of a suffix such as `.exr` or `_left.exr`, without its dot. */
export function extensionOf(suffix: string): string {
  const dot = suffix.lastIndexOf('.');
  return dot < 0 ? '' : suffix.slice(dot + 1);
}

function stemOf(suffix: string): string {
  const dot = suffix.lastIndexOf('.');
  return dot < 0 ? suffix : suffix.slice(0, dot);
}

/** The words of a name without its folder: lower case, separators alike, none at the ends. */
function looseKey(name: NameParts): string {
  return [name.prefix, stemOf(name.suffix)].map(looseText).join('#');
}

function looseText(text: string): string {
  return text
    .toLowerCase()
    .replace(/[\s._-]+/g, '_')
    .replace(/^_|_$/g, '');
}

const VERSION = /(^|[^a-z])v\d+/gi;

function versionlessKey(name: NameParts): string {
  return [name.directory, name.prefix, stemOf(name.suffix)].join('/').toLowerCase().replace(VERSION, '$1v');
}

function versionsOf(name: NameParts): string {
  const text = [name.directory, name.prefix, stemOf(name.suffix)].join('/').toLowerCase();
  return [...text.matchAll(VERSION)].map((match) => match[0].replace(/\D/g, '')).join(',');
}

const VIEWS = [
  ['l', 'r'],
  ['left', 'right'],
];

/** Whether two names differ in the eye that they were rendered for, and in nothing else. */
function areTwoViews(a: string, b: string): boolean {
  const [wordsA, wordsB] = [a.split(/[_#]/), b.split(/[_#]/)];
  if (wordsA.length !== wordsB.length) return false;
  const differing = wordsA.flatMap((word, i) => (word === wordsB[i] ? [] : [[word, wordsB[i]].sort().join()]));
  return differing.length === 1 && VIEWS.some((pair) => pair.join() === differing[0]);
}

/**
 * Near means: one is the other with whole words left out at its ends, or at most two letters
 * differ and the names are long enough for that to be a slip.
 */
function isNearPrefix(a: string, b: string): boolean {
  const [shorter, longer] = a.length <= b.length ? [a, b] : [b, a];
  const bare = shorter.replace(/^#|#$/g, '');
  if (bare.length >= 3 && `_${longer.replace('#', '_')}`.includes(`_${bare}`)) return true;
  const allowed = longer.length >= 12 ? 2 : longer.length >= 6 ? 1 : 0;
  return allowed > 0 && editDistance(a, b, allowed) <= allowed;
}

/** Letters to insert, delete, replace or swap with a neighbour (Damerau 1964), given up above `limit`. */
function editDistance(a: string, b: string, limit: number): number {
  if (Math.abs(a.length - b.length) > limit) return limit + 1;
  let beforeLast: number[] = [];
  let last = Array.from({ length: b.length + 1 }, (_, j) => j);
  for (let i = 1; i <= a.length; i++) {
    const row = [i];
    for (let j = 1; j <= b.length; j++) {
      const cost = a[i - 1] === b[j - 1] ? 0 : 1;
      row[j] = Math.min(last[j] + 1, row[j - 1] + 1, last[j - 1] + cost);
      if (i > 1 && j > 1 && a[i - 1] === b[j - 2] && a[i - 2] === b[j - 1]) row[j] = Math.min(row[j], beforeLast[j - 2] + 1);
    }
    beforeLast = last;
    last = row;
  }
  return last[b.length]!;
}
