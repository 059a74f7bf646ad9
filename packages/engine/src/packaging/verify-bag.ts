import { createHash } from 'node:crypto';
import { closeSync, readFileSync } from 'node:fs';
import path from 'node:path';
import { hashOpen } from '@mint-tally/disk';
import { openInside } from '../files/roots.ts';
import { MANIFEST } from './fill-bag.ts';
import { sealOf, volumeName, type PackageOptions } from './write-package.ts';

/** A package as it was written down. */
export interface WrittenDown {
  readonly manifestSha256: string;
  readonly form: PackageOptions['form'];
  readonly volumes: number;
}

/**
 * Whether a package that stands under its name is the one that was written down: its manifests (or tar files) by what stands for
 * them, and every file by its manifest.
 *
 * @param parent real path of the folder that the package lies in
 * @param onProgress told after each file
 * @returns the first file that is not as it was written, or null when all are; undefined when it was stopped
 * @throws FileAccessError
 */
export async function verifyWritten(
  parent: string,
  name: string,
  { manifestSha256, form, volumes }: WrittenDown,
  stopped: () => boolean,
  onProgress: (done: number, total: number) => void,
): Promise<string | null | undefined> {
  const places = volumes === 1 ? [name] : Array.from({ length: volumes }, (_, i) => path.join(name, volumeName(i, form)));
  if (form === 'tar') return sealOf(await Promise.all(places.map((place) => hashOf(parent, place)))) === manifestSha256 ? null : name;
  const manifests = places.map((place) => ({ place, text: readManifestText(parent, place) }));
  if (sealOf(manifests.map(({ text }) => createHash('sha256').update(text).digest('hex'))) !== manifestSha256) return MANIFEST;
  const lines = manifests.flatMap(({ place, text }) => text.split('\n').flatMap((line) => (line === '' ? [] : [{ place, line }])));
  for (const [i, { place, line }] of lines.entries()) {
    if (stopped()) return undefined;
    // Checksum, two blanks, path (RFC 8493, section 2.1.3); we wrote it ourselves.
    const [sha256, file] = [line.slice(0, 64), line.slice(66)];
    if ((await hashOf(parent, path.join(place, file))) !== sha256) return file;
    onProgress(i + 1, lines.length);
  }
  return null;
}

function readManifestText(parent: string, place: string): string {
  const { descriptor } = openInside(parent, path.join(place, MANIFEST));
  try {
    return readFileSync(descriptor, 'utf8');
  } finally {
    closeSync(descriptor);
  }
}

async function hashOf(folder: string, name: string): Promise<string> {
  const { descriptor } = openInside(folder, path.posix.normalize(name));
  try {
    return await hashOpen(descriptor);
  } finally {
    closeSync(descriptor);
  }
}
