import path from 'node:path';
import { parseArgs, type ParseArgsConfig } from 'node:util';
import { MintError, readColour } from '@mint-tally/core';
import { isInside } from '@mint-tally/disk';
import type { ZodError } from 'zod';

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

/** A number below zero behind an option is its value, not another option. */
export const joinNegative = (argv: readonly string[], option: string) =>
  argv.flatMap((word, i) => (argv[i - 1] === option ? [] : word === option && i + 1 < argv.length ? [`${word}=${argv[i + 1]!}`] : [word]));

/** Where something is written that is made of a shot's frames. @throws UsageError among the frames themselves */
export function targetOutside(folder: string, out: string, what: string): string {
  const full = path.resolve(out);
  if (isInside(folder, full)) throw new UsageError(`${out} lies in the shot’s own folder, where it would be counted.`, `Write the ${what} elsewhere.`);
  return full;
}

/** A colour that was named; null where none was. @throws UsageError */
export function colourNamed(text: string | undefined, usage: string): [number, number, number] | null {
  const colour = text === undefined ? null : readColour(text);
  if (text !== undefined && colour === null) throw new UsageError(`${text} is no colour; write black, white, grey or #rrggbb.`, usage);
  return colour;
}

/** The first thing that is wrong with what was asked for, and where. */
export function sayIssue({ issues: [issue] }: ZodError): string {
  return `${String(issue!.path[0])}: ${issue!.message.replace(/\.?$/, '.')}`;
}
