import { parseArgs } from 'node:util';
import { MintError, tallyLevels, type TallyLevel } from '@mint-tally/core';

/** What `./mint check` was asked to do. */
export interface CheckArguments {
  readonly folder: string;
  readonly briefFile: string | null;
  readonly level: TallyLevel;
  /** Whether the pixels are measured as well. */
  readonly assay: boolean;
  readonly json: boolean;
}

export const CHECK_USAGE = 'Usage: ./mint check FOLDER [--brief FILE.json] [--level names|headers|full] [--assay] [--json]';

/** Raised when the command line cannot be understood. */
export class UsageError extends MintError {
  constructor(message: string) {
    super('usage', message, { remedy: CHECK_USAGE });
  }
}

/** Reads the command line of `./mint check`. @throws UsageError */
export function parseCheckArguments(argv: readonly string[]): CheckArguments {
  let parsed;
  try {
    parsed = parseArgs({
      args: [...argv],
      allowPositionals: true,
      options: {
        brief: { type: 'string' },
        level: { type: 'string', default: 'full' },
        assay: { type: 'boolean', default: false },
        json: { type: 'boolean', default: false },
      },
    });
  } catch (thrown) {
    throw new UsageError(`${(thrown as Error).message.split('\n')[0]!.replace(/\.?$/, '.')}`);
  }
  const { positionals, values } = parsed;
  if (positionals.length !== 1) throw new UsageError(positionals.length === 0 ? 'No folder was named.' : 'More than one folder was named.');
  const level = tallyLevels.find((candidate) => candidate === values.level);
  if (!level) throw new UsageError(`There is no level called ${values.level}.`);
  if (values.assay && values.brief === undefined) throw new UsageError('To measure pixels a brief is needed.');
  if (values.assay && level !== 'full') throw new UsageError('To measure pixels all of a file is read: level full.');
  return { folder: positionals[0]!, briefFile: values.brief ?? null, level, assay: values.assay, json: values.json };
}
