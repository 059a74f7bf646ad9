import { parseArgs, type ParseArgsConfig } from 'node:util';
import { MintError } from '@mint-tally/core';

/** Raised for words behind a command that it does not understand; the remedy is its usage. */
export class UsageError extends MintError {
  constructor(message: string, usage: string) {
    super('usage', message, { remedy: usage });
  }
}

/**
 * The one folder and the options that stand behind a command.
 *
 * @param usage said as the remedy
 * @throws UsageError for an option that is not known, and for no folder or more than one
 */
export function wordsOf<Options extends NonNullable<ParseArgsConfig['options']>>(argv: readonly string[], options: Options, usage: string) {
  const parse = () => parseArgs({ args: [...argv], allowPositionals: true, strict: true, options });
  let parsed: ReturnType<typeof parse>;
  try {
    parsed = parse();
  } catch (thrown) {
    throw new UsageError(`${(thrown as Error).message.split('\n')[0]!.replace(/\.?$/, '.')}`, usage);
  }
  const [folder, ...more] = parsed.positionals;
  if (folder === undefined || more.length > 0) throw new UsageError(folder === undefined ? 'No folder was named.' : 'More than one folder was named.', usage);
  return { folder, values: parsed.values };
}
