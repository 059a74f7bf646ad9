import path from 'node:path';
import { MintError } from '@mint-tally/core';
import { accessError } from '@mint-tally/disk';

/** Raised when a package cannot be written. */
export class PackageError extends MintError {
  constructor(
    code: 'package-exists' | 'disk-short' | 'changed-since-count' | 'package-failed' | 'nothing-new',
    message: string,
    subject: string,
    remedy: string,
  ) {
    super(code, message, { subject, remedy });
  }
}

/** What the system says against a package. */
export function packageFailure(thrown: unknown, target: string): PackageError {
  const code = (thrown as NodeJS.ErrnoException).code ?? String(thrown);
  if (code === 'ENOTEMPTY' || code === 'ENOTDIR' || code === 'EEXIST') return nameTaken(target);
  const { message, remedy } = accessError(thrown, target);
  return new PackageError('package-failed', `The package cannot be written. ${message}`, target, remedy);
}

export const nameTaken = (target: string) =>
  new PackageError('package-exists', `There is a folder or a file ${path.basename(target)} already.`, target, 'Give the package another name.');
