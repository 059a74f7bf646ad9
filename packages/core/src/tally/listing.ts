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

const LEFTOVER = /(\.(tmp|temp|part|partial|filepart|writing|incomplete|lock)|~)$/i;

/**
 * The name that a leftover of writing was meant to get (`a.0007.png.tmp` gives `a.0007.png`), or
 * null for any other name.
 */
export function intendedPath(path: string): string | null {
  return LEFTOVER.test(path) ? path.replace(LEFTOVER, '') : null;
}
