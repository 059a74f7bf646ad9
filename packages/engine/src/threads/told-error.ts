import { MintError } from '@mint-tally/core';

/** An error of our own on its way out of a thread, where it loses its class; its words are what counts. */
export interface ToldError {
  readonly told: { readonly code: string; readonly message: string; readonly subject: string | null; readonly remedy: string };
}

/** What an error of our own says. @throws any other */
export function tellError(thrown: unknown): ToldError {
  if (!(thrown instanceof MintError)) throw thrown;
  const { code, message, subject, remedy } = thrown;
  return { told: { code, message, subject, remedy } };
}

/** The answer of a thread. @throws MintError when it was an error */
export function answerOf<Answer extends object>(answer: Answer | ToldError): Answer {
  if (!('told' in answer)) return answer;
  const { code, message, subject, remedy } = answer.told;
  throw new MintError(code, message, { subject, remedy });
}
