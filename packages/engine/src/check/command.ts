import { readFileSync, realpathSync, statSync } from 'node:fs';
import os from 'node:os';
import { describeError, MintError, parseBrief, type Brief } from '@mint-tally/core';
import { countFolder } from '../counting/count-folder.ts';
import type { KnownFile } from '../counting/known-files.ts';
import { accessError, FileAccessError } from '@mint-tally/disk';
import { InspectionPool } from '../inspection/pool.ts';
import { parseCheckArguments } from './arguments.ts';
import { checkObject, checkText } from './report.ts';

/** What a command leaves behind. */
export interface CommandOutcome {
  /** 0 nothing blocks a handoff, 1 something does, 2 it could not run. */
  readonly status: 0 | 1 | 2;
  readonly output: string;
  readonly error: string;
}

/** So few files are looked at before the first thread would have begun. */
const FEW_FILES = 4;

/** Measures a folder and tells what it has found of the files on the way. */
export type AssayBeside = (
  folder: string,
  brief: Brief,
  now: number,
  known: Map<string, KnownFile>,
) => Promise<{
  readonly object: object;
  readonly text: string;
  readonly blocks: boolean;
}>;

/**
 * Runs `./mint check` with no database and no server. Never throws: what fails becomes status 2.
 *
 * @param beside what measures where that is wanted; null where all that measuring takes is not loaded
 */
export async function runCheck(argv: readonly string[], beside: AssayBeside | null = null): Promise<CommandOutcome> {
  let pool: InspectionPool | null = null;
  try {
    const wanted = parseCheckArguments(argv);
    const folder = folderNamed(wanted.folder);
    const brief = wanted.briefFile === null ? null : readBrief(wanted.briefFile);
    const now = Date.now();
    const known = new Map<string, KnownFile>();
    if (wanted.assay && !beside) throw new MintError('not-loaded', 'What measures pixels was not loaded.', { remedy: 'Run ./mint check --assay.' });
    const assay = wanted.assay ? await beside!(folder, brief!, now, known) : null;
    pool = wanted.level === 'names' ? null : new InspectionPool(os.availableParallelism(), undefined, FEW_FILES);
    const { tally } = await countFolder({ folder, brief, level: wanted.level, pool, proxyFolder: null, now, known: async () => known });
    const object = { ...checkObject(tally), ...(assay && { assay: assay.object }) };
    const output = wanted.json ? JSON.stringify(object, null, 2) : [checkText(tally), ...(assay ? [assay.text] : [])].join('\n\n');
    return { status: tally.ready && !assay?.blocks ? 0 : 1, output, error: '' };
  } catch (thrown) {
    return { status: 2, output: '', error: `mint check: ${describeError(thrown).replace(/\s+/g, ' ')}` };
  } finally {
    await pool?.close();
  }
}

/** @throws MintError when it is no folder */
export function folderNamed(name: string): string {
  try {
    const folder = realpathSync(name);
    if (!statSync(folder).isDirectory()) throw new MintError('not-a-folder', `${name} is not a folder.`, { subject: name });
    return folder;
  } catch (thrown) {
    if (thrown instanceof MintError) throw thrown;
    throw new MintError('not-a-folder', accessError(thrown, name).message, { subject: name, remedy: 'Name a folder of frames.' });
  }
}

/** @throws MintError when it cannot be read, or is no brief */
export function readBrief(file: string): Brief {
  let value: unknown;
  try {
    value = JSON.parse(readFileSync(file, 'utf8'));
  } catch (thrown) {
    const cannot = (thrown as NodeJS.ErrnoException).code !== undefined;
    const why = cannot ? accessError(thrown, file).message : `${file} is not JSON: ${(thrown as Error).message}.`;
    throw cannot ? new FileAccessError('not-readable', why, file) : new MintError('brief', why, { subject: file });
  }
  return parseBrief(value, file);
}
