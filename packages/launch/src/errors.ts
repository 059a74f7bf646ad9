import { MintError } from '@mint-tally/core';

/** Raised when the application cannot be started. */
export class LaunchError extends MintError {
  constructor(
    code: 'package-missing' | 'port-in-use' | 'half-made-database' | 'database-failed' | 'already-running' | 'child-failed',
    message: string,
    remedy: string,
  ) {
    super(code, message, { remedy });
  }
}
