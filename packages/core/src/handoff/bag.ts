import { MintError } from '../errors.ts';

/** One file of a bag, with the path that it has below the bag's folder. */
export interface BagEntry {
  readonly path: string;
  /** Lower-case hexadecimal. */
  readonly sha256: string;
}

/** Raised when a bag cannot be described, for instance because of a path. */
export class BagError extends MintError {
  constructor(message: string, subject: string) {
    super('bag', message, { subject });
  }
}

/** The bag declaration (RFC 8493, section 2.1.1). */
export const BAG_DECLARATION = 'BagIt-Version: 1.0\nTag-File-Character-Encoding: UTF-8\n';

/**
 * A manifest's text: checksum, two blanks, path, one line a file, in the order of the paths
 * (RFC 8493, section 2.1.3, which is also what `sha256sum -c` reads).
 *
 * @throws BagError for a path that one of the two would read as another
 */
export function writeManifest(entries: readonly BagEntry[]): string {
  return [...entries]
    .sort((a, b) => (a.path < b.path ? -1 : 1))
    .map((entry) => {
      // RFC 8493 would percent-encode these and sha256sum would escape them differently: no name
      // serves both, so such files are refused rather than listed under a name that one misreads.
      if (/[\r\n\\%]/.test(entry.path)) {
        throw new BagError(`${JSON.stringify(entry.path)} cannot stand in a manifest: its name holds a line break, a backslash or a percent sign.`, entry.path);
      }
      return `${entry.sha256}  ${entry.path}\n`;
    })
    .join('');
}

/**
 * The text of bag-info.txt (RFC 8493, section 2.2.2): label, colon, value; one line each. Line
 * breaks in a value become blanks.
 */
export function writeBagInfo(fields: readonly (readonly [label: string, value: string])[]): string {
  return fields.map(([label, value]) => `${label}: ${value.replace(/\s*[\r\n]+\s*/g, ' ').trim()}\n`).join('');
}

/** Payload-Oxum: bytes and number of the payload's files (RFC 8493, section 2.2.2). */
export function payloadOxum(sizes: readonly number[]): string {
  return `${sizes.reduce((sum, size) => sum + size, 0)}.${sizes.length}`;
}

/** The folder that a package's tar file has in it (RFC 8493, section 4.2): its own name without the ending, and never its own name. */
export const folderInTar = (name: string) => (name.endsWith('.tar') ? name.slice(0, -4) : `${name}_package`);
