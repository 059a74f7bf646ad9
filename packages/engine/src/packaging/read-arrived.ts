import { closeSync, readFileSync } from 'node:fs';
import { MintError, parseBrief, waiverSubjectSchema, type Brief, type WaiverSubject } from '@mint-tally/core';
import { FileAccessError } from '@mint-tally/disk';
import * as z from 'zod';
import { openInside } from '../files/roots.ts';

/** Raised for a package that no shot can be made of. */
export class ArrivedPackageError extends MintError {
  constructor(message: string, remedy: string, subject: string) {
    super('arrived-package', message, { remedy, subject });
  }
}

/** What a package says of itself that a shot can be made of. Nothing of it has been verified. */
export interface ArrivedPackage {
  readonly brief: Brief;
  /** Findings that were accepted when it was packed; gates were accepted for other files than these. */
  readonly waivers: readonly { readonly subject: WaiverSubject; readonly person: string; readonly reason: string }[];
}

/** Where a package's frames lie, below its folder (RFC 8493, section 2.1.2). */
export const PAYLOAD_FOLDER = 'data';
/** A brief or a count is not longer than this, of a shot of a hundred thousand frames with long names. */
const LONGEST = 1 << 28;

const waiversSchema = z.object({
  waivers: z.array(z.object({ subject: waiverSubjectSchema, person: z.string().max(200), reason: z.string().max(10_000) })).default([]),
});

/**
 * Looks whether a folder is a package, and what it says that was ordered.
 *
 * @param folder real path
 * @returns null for a folder that is none
 * @throws ArrivedPackageError for a package without a brief, or with one that cannot be read; FileAccessError
 */
export function readArrived(folder: string): ArrivedPackage | null {
  if (textOf(folder, 'bagit.txt') === null) return null;
  const text = textOf(folder, `${PAYLOAD_FOLDER}/brief.json`);
  if (text === null)
    throw new ArrivedPackageError(
      'This is a package of another program: there is no brief in it, so nothing says what was ordered.',
      `./mint verify says whether it is whole. To count its frames, choose its folder ${PAYLOAD_FOLDER}.`,
      folder,
    );
  const brief = parseBrief(jsonOf(folder, 'brief.json', text), 'brief.json');
  const tally = textOf(folder, `${PAYLOAD_FOLDER}/tally.json`);
  const known = waiversSchema.safeParse(tally === null ? {} : jsonOf(folder, 'tally.json', tally));
  return { brief, waivers: known.success ? known.data.waivers.filter(({ subject }) => subject.kind === 'finding') : [] };
}

function textOf(folder: string, name: string): string | null {
  try {
    const { descriptor, stats } = openInside(folder, name);
    try {
      if (stats.size > LONGEST) throw new ArrivedPackageError(`${name} is too large to be one.`, 'Ask for the package again.', name);
      return readFileSync(descriptor, 'utf8');
    } finally {
      closeSync(descriptor);
    }
  } catch (thrown) {
    if (thrown instanceof FileAccessError && thrown.code === 'not-found') return null;
    throw thrown;
  }
}

function jsonOf(folder: string, name: string, text: string): unknown {
  try {
    return JSON.parse(text);
  } catch {
    throw new ArrivedPackageError(`${name} in the package is damaged: it is not JSON.`, './mint verify says what else is not as it was packed.', folder);
  }
}
