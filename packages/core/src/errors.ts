/**
 * The errors that Mint Tally raises on purpose. Each says what happened, to which file or
 * field where there is one, and what can be done; callers show `message` and `remedy` to people
 * and branch on `code`.
 */
export class MintError extends Error {
  /** Stable, machine-readable name of what went wrong. */
  readonly code: string;
  /** The file or field it happened to, if there is one. */
  readonly subject: string | null;
  /** What a person can do about it; empty when nothing can be said. */
  readonly remedy: string;

  constructor(code: string, message: string, details: { subject?: string | null; remedy?: string; cause?: unknown } = {}) {
    super(message, details.cause === undefined ? undefined : { cause: details.cause });
    this.name = new.target.name;
    this.code = code;
    this.subject = details.subject ?? null;
    this.remedy = details.remedy ?? '';
  }
}

/** Says in one line what any thrown value was, for logs and messages. */
export function describeError(thrown: unknown): string {
  if (thrown instanceof MintError) return thrown.remedy ? `${thrown.message} ${thrown.remedy}` : thrown.message;
  return thrown instanceof Error ? thrown.message : String(thrown);
}
