import { MintError } from '../errors.ts';

/** Raised when a command holds a token that nobody fills. */
export class CommandTokenError extends MintError {
  constructor(token: string, known: readonly string[]) {
    super('command-token', `The command holds {${token}}, which is no token.`, {
      remedy: `Use ${known.map((one) => `{${one}}`).join(', ')}; a brace itself is written twice.`,
    });
  }
}

/**
 * Fills the tokens of a command, argument by argument, so that a value with spaces or quotes stays
 * one argument. `{{` and `}}` stand for braces.
 *
 * @param later tokens that somebody else fills afterwards; they are left as they stand
 * @throws CommandTokenError
 */
export function fillCommand(command: readonly string[], values: Readonly<Record<string, string>>, later: readonly string[] = []): string[] {
  return command.map((argument) =>
    argument.replace(/\{\{|\}\}|\{([A-Za-z]+)\}/g, (whole: string, token: string | undefined) => {
      // Doubled braces stay doubled for whoever fills the rest.
      if (token === undefined) return later.length > 0 ? whole : whole[0]!;
      if (Object.hasOwn(values, token)) return later.length > 0 ? values[token]!.replace(/[{}]/g, '$&$&') : values[token]!;
      if (later.includes(token)) return whole;
      throw new CommandTokenError(token, [...Object.keys(values), ...later]);
    }),
  );
}
