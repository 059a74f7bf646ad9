import { MintError, RECEIPT_KIND, receiptSchema, type Receipt } from '@mint-tally/core';
import type { VerifiedPackage } from './verify-package.ts';

/** Problems that a receipt names; of more it says how many. */
const MOST_NAMED = 1000;

/** What goes back to whoever sent a package. @param person who says so; may be empty @throws MintError for one without a manifest, which nothing names */
export function receiptOf({ valid, isReady, files, bytes, problems, manifestSha256, shot }: VerifiedPackage, person: string, at: Date): Receipt {
  if (manifestSha256 === '')
    throw new MintError('no-receipt', 'There is no manifest-sha256.txt: nothing says which package this is, so there is no receipt of it.', {
      remedy: problems[0] ? `Besides: ${problems[0].message}` : 'Ask for it again.',
    });
  const more = problems.length - MOST_NAMED;
  return receiptSchema.parse({
    ...{ kind: RECEIPT_KIND, shot, manifestSha256, valid, ready: isReady, files, bytes, person, at: at.toISOString() },
    problems: [...problems.slice(0, MOST_NAMED), ...(more > 0 ? [{ code: 'more', file: '', message: `and ${more} more` }] : [])],
  });
}
