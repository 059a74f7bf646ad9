import { MintError } from '@mint-tally/core';
import { assayFolder } from '../assaying/assay-folder.ts';
import { assayObject, assayText } from '../assaying/command.ts';
import type { KnownFile } from '../counting/known-files.ts';
import type { AssayBeside } from './command.ts';

/**
 * Measures a folder, and looks into the files that it reads for the count that follows.
 *
 * @param known is told of every file that was looked into
 * @throws NothingToAssayError, FileAccessError
 */
export const assayLooking: AssayBeside = async (folder, brief, now, known) => {
  const looks = { known, proxyFolder: null, onInspected: (file: KnownFile & { readonly path: string }) => void known.set(file.path, file) };
  const assay = await assayFolder({ folder, brief, now, looks });
  if (!assay) throw new MintError('stopped', 'It was stopped.');
  return { object: assayObject(assay), text: assayText(assay), blocks: assay.findings.some(({ severity }) => severity === 'blocker') };
};
