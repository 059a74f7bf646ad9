import path from 'node:path';
import { proposeBrief, sampleFiles, withImpliedKinds, type Brief, type FileFacts } from '@mint-tally/core';
import { listFolder } from '../files/list-folder.ts';
import { inspectFile } from '../inspection/inspect-file.ts';
import { tellError, type ToldError } from '../threads/told-error.ts';

/** What a folder's content suggests, with the folder's sums; null brief where nothing is numbered. */
export interface Proposal {
  readonly brief: Brief | null;
  readonly files: number;
  readonly bytes: number;
}

/** The thread's work: lists a folder, groups its names, looks into a few files of each sequence. */
export default async function proposeForFolder(folder: string): Promise<Proposal | ToldError> {
  try {
    const { files } = await listFolder(folder, { stats: true });
    const bytes = files.reduce((sum, file) => sum + file.size, 0);
    const brief = proposeBrief(files, path.basename(folder));
    if (!brief) return { brief: null, files: files.length, bytes };
    const samples = sampleFiles(brief, files);
    const facts = new Map<string, FileFacts>(samples.map((file) => [file.path, inspectFile(folder, file.path, 'headers').facts]));
    return { brief: withImpliedKinds(brief, samples, (file) => facts.get(file.path) ?? null), files: files.length, bytes };
  } catch (thrown) {
    return tellError(thrown);
  }
}
