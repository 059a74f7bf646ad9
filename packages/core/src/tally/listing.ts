/** One entry of a folder's listing. */
export interface ListedFile {
  /** Relative to the shot's folder, with `/` between folders. */
  readonly path: string;
  /** In bytes. */
  readonly size: number;
  /** Milliseconds since 1970. */
  readonly modified: number;
  /** `special` is what is no regular file: a pipe, a device, a link that leads nowhere or outside. */
  readonly kind: 'file' | 'special';
}

/** How long after its last change a leftover counts as still being written, in milliseconds. */
export const FRESH_FOR = 5 * 60 * 1000;

const LEFTOVERS: ReadonlySet<string> = new Set(['tmp', 'temp', 'part', 'partial', 'filepart', 'writing', 'incomplete', 'lock']);

const LAST_LETTERS: ReadonlySet<number> = new Set([...LEFTOVERS].flatMap((word) => [word, word.toUpperCase()].map((form) => form.charCodeAt(form.length - 1))));
const TILDE = 0x7e;

/**
 * The name that a leftover of writing was meant to get (`a.0007.png.tmp` gives `a.0007.png`), or
 * null for any other name.
 */
export function intendedPath(path: string): string | null {
  const last = path.charCodeAt(path.length - 1);
  if (last === TILDE) return path.slice(0, -1);
  // Nearly every name is told by its last letter alone.
  if (!LAST_LETTERS.has(last)) return null;
  const dot = path.lastIndexOf('.');
  if (dot < 0) return null;
  return LEFTOVERS.has(path.slice(dot + 1).toLowerCase()) ? path.slice(0, dot) : null;
}
