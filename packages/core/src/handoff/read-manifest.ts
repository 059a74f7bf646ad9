/** Checksums that a manifest may be of (RFC 8493, section 2.4), the strongest first, with their hexadecimal digits. */
export const manifestAlgorithms = { sha512: 128, sha256: 64, sha1: 40, md5: 32 } as const;
export type ManifestAlgorithm = keyof typeof manifestAlgorithms;

/** A line of a manifest as it was read. */
export interface ManifestLine {
  /** From 1. */
  readonly line: number;
  readonly checksum: string;
  /** As it stands there, percent signs of RFC 8493 undone. */
  readonly path: string;
}

/** A manifest, and the lines of it that say nothing that could be followed. */
export interface ReadManifest {
  readonly lines: readonly ManifestLine[];
  readonly broken: readonly { readonly line: number; readonly why: string }[];
}

/**
 * Reads a manifest's text (RFC 8493, section 2.1.3): a checksum, blanks, and a path, which `sha256sum` may have marked with a star.
 *
 * @param digits hexadecimal digits of its checksums
 */
export function readManifest(text: string, digits: number): ReadManifest {
  const lines: ManifestLine[] = [];
  const broken: { line: number; why: string }[] = [];
  // A mark of the byte order is no part of the first checksum.
  const rows = text.replace(/^\ufeff/, '').split(/\r\n|\n|\r/);
  rows.forEach((row, i) => {
    if (row.trim() === '') return;
    const match = /^([0-9a-f]+)[ \t]+\*?(.+)$/i.exec(row);
    if (!match) broken.push({ line: i + 1, why: 'it is no checksum with a path' });
    else if (match[1]!.length !== digits) broken.push({ line: i + 1, why: `its checksum has ${match[1]!.length} digits where ${digits} are needed` });
    else lines.push({ line: i + 1, checksum: match[1]!.toLowerCase(), path: decodePath(match[2]!) });
  });
  return { lines, broken };
}

/** Line breaks and percent signs are written as such (RFC 8493, section 2.1.3); nothing else is. */
const decodePath = (path: string) => path.replace(/%(0a|0d|25)/gi, (_, code: string) => String.fromCharCode(parseInt(code, 16)));

/**
 * Why a path of a manifest is not followed: it would lead out of the package, by itself or on some system; null where it stays.
 * (RFC 8493, section 5.1, warns of ~, .. and roots.)
 */
export function unsafePathReason(path: string): string | null {
  if (path.includes('\0')) return 'it holds a zero';
  if (path.includes('\\')) return 'it holds a backslash, which leads elsewhere on other systems';
  if (path.startsWith('/')) return 'it begins at the root of the disk';
  if (/^[a-z]:/i.test(path)) return 'it begins with a drive';
  if (path.startsWith('~')) return 'it begins with a home folder';
  const parts = path.split('/');
  if (parts.includes('..')) return 'it climbs out of the package';
  // What a web address would make of it leads out as well.
  if (/%2e%2e|%2f|%5c/i.test(path)) return 'it climbs in another writing';
  if (parts.some((part) => part === '' || part === '.')) return 'a part of it is empty';
  return null;
}

/** The values of a tag file such as bag-info.txt, by label in lower case; lines that begin with a blank go on (RFC 8493, section 2.2.2). */
export function readBagInfo(text: string): Map<string, string[]> {
  const info = new Map<string, string[]>();
  let last: string[] | null = null;
  for (const row of text.replace(/^\ufeff/, '').split(/\r\n|\n|\r/)) {
    if (/^[ \t]/.test(row) && last) last[last.length - 1] += ` ${row.trim()}`;
    const match = /^([^:\s][^:]*):\s*(.*)$/.exec(row);
    if (!match) continue;
    const label = match[1]!.trim().toLowerCase();
    last = info.get(label) ?? [];
    last.push(match[2]!.trim());
    info.set(label, last);
  }
  return info;
}
