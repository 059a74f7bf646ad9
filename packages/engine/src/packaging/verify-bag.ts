import { createHash } from 'node:crypto';
import { closeSync, readFileSync } from 'node:fs';
import path from 'node:path';
import { hashOpen } from '@mint-tally/disk';
import { openInside } from '../files/roots.ts';
import { MANIFEST } from './write-bag.ts';

/**
 * Whether a package that stands under its name is the one that was written down: its manifest by its
 * checksum, and every file by the manifest.
 *
 * @param folder real path of the package
 * @param onProgress told after each file
 * @returns the first file that is not as it was written, or null when all are; undefined when it was stopped
 * @throws FileAccessError
 */
export async function verifyBag(
  folder: string,
  manifestSha256: string,
  stopped: () => boolean,
  onProgress: (done: number, total: number) => void,
): Promise<string | null | undefined> {
  const { descriptor } = openInside(folder, MANIFEST);
  let manifest: string;
  try {
    manifest = readFileSync(descriptor, 'utf8');
  } finally {
    closeSync(descriptor);
  }
  if (createHash('sha256').update(manifest).digest('hex') !== manifestSha256) return MANIFEST;
  const lines = manifest.split('\n').filter((line) => line !== '');
  for (const [i, line] of lines.entries()) {
    if (stopped()) return undefined;
    // Checksum, two blanks, path (RFC 8493, section 2.1.3); we wrote it ourselves.
    const [sha256, name] = [line.slice(0, 64), line.slice(66)];
    if ((await hashOf(folder, name)) !== sha256) return name;
    onProgress(i + 1, lines.length);
  }
  return null;
}

async function hashOf(folder: string, name: string): Promise<string> {
  const { descriptor } = openInside(folder, path.posix.normalize(name));
  try {
    return await hashOpen(descriptor);
  } finally {
    closeSync(descriptor);
  }
}
