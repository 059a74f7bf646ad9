import { MintError, type Brief } from '@mint-tally/core';
import { assayFolder } from '../assaying/assay-folder.ts';
import { assayObject, assayText } from '../assaying/command.ts';
import type { KnownFile } from '../counting/count-folder.ts';

/** What an assay beside a check says. */
export interface AssayBeside {
  readonly object: ReturnType<typeof assayObject>;
  readonly text: string;
  readonly blocks: boolean;
}

/**
 * Measures a folder, and looks into the files that it reads for the count that follows.
 *
 * @param known is told of every file that was looked into
 * @throws NothingToAssayError, FileAccessError
 */
export async function assayLooking(folder: string, brief: Brief, now: number, known: Map<string, KnownFile>): Promise<AssayBeside> {
  const looks = { known, proxyFolder: null, onInspected: (file: KnownFile & { readonly path: string }) => void known.set(file.path, file) };
  const assay = await assayFolder({ folder, brief, now, looks });
  if (!assay) throw new MintError('stopped', 'It was stopped.');
  return { object: assayObject(assay), text: assayText(assay), blocks: assay.findings.some(({ severity }) => severity === 'blocker') };
}
