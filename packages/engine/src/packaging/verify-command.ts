import { writeFileSync } from 'node:fs';
import os from 'node:os';
import path from 'node:path';
import { describeError, MintError, RECEIPT_KIND, receiptSchema, sayBytes, type Receipt } from '@mint-tally/core';
import { accessError, isInside } from '@mint-tally/disk';
import { folderNamed, type CommandOutcome } from '../check/command.ts';
import { checkObject, checkText } from '../check/report.ts';
import { UsageError, wordsOf } from '../check/words.ts';
import { InspectionPool } from '../inspection/pool.ts';
import { verifyPackage, type VerifiedPackage } from './verify-package.ts';

export const VERIFY_USAGE = 'Usage: ./mint verify FOLDER [--receipt FILE.json] [--person NAME] [--json]';

/** Runs `./mint verify` with no database and no server. Never throws: what fails becomes status 2. */
export async function runVerify(argv: readonly string[], onProgress: (text: string) => void): Promise<CommandOutcome> {
  let pool: InspectionPool | null = null;
  try {
    const { folder, json, receipt, person } = parseVerifyArguments(argv);
    pool = new InspectionPool(os.availableParallelism());
    const found = await verifyPackage(folder, pool, (done, total) => onProgress(`verifying: ${done} of ${total} files`));
    const { valid, isReady } = found;
    if (receipt !== null) writeReceipt(receipt, found, person);
    return { status: valid && isReady ? 0 : 1, output: json ? JSON.stringify(verifyObject(found), null, 2) : verifyText(found), error: '' };
  } catch (thrown) {
    return { status: 2, output: '', error: `mint verify: ${describeError(thrown).replace(/\s+/g, ' ')}` };
  } finally {
    await pool?.close();
  }
}

/** @throws MintError */
function parseVerifyArguments(argv: readonly string[]): { folder: string; json: boolean; receipt: string | null; person: string } {
  const text = { type: 'string' } as const;
  const { folder: named, values } = wordsOf(argv, { receipt: text, person: text, json: { type: 'boolean', default: false } }, VERIFY_USAGE);
  const folder = folderNamed(named);
  const receipt = values.receipt === undefined ? null : path.resolve(values.receipt);
  if (receipt !== null && isInside(folder, receipt)) throw new UsageError('A receipt in the package itself would be an extra file there.', VERIFY_USAGE);
  return { folder, json: values.json, receipt, person: values.person ?? '' };
}

/** Problems that a receipt names; of more it says how many. */
const MOST_NAMED = 1000;

/** Writes what goes back to whoever sent the package. @throws MintError */
function writeReceipt(file: string, { valid, isReady, files, bytes, problems, manifestSha256, shot }: VerifiedPackage, person: string): void {
  if (manifestSha256 === '')
    throw new MintError('no-receipt', 'There is no manifest-sha256.txt: nothing says which package this is, so there is no receipt of it.', { subject: file });
  const more = problems.length - MOST_NAMED;
  const receipt: Receipt = receiptSchema.parse({
    ...{ kind: RECEIPT_KIND, shot, manifestSha256, valid, ready: isReady, files, bytes, person, at: new Date().toISOString() },
    problems: [...problems.slice(0, MOST_NAMED), ...(more > 0 ? [{ code: 'more', file: '', message: `and ${more} more` }] : [])],
  });
  try {
    writeFileSync(file, `${JSON.stringify(receipt, null, 2)}\n`, { flag: 'wx' });
  } catch (thrown) {
    throw accessError(thrown, file);
  }
}

function verifyObject({ valid, files, bytes, problems, tally }: VerifiedPackage) {
  return { valid, files, bytes, problems, tally: tally && checkObject(tally) };
}

const SHOWN = 40;

function verifyText({ valid, files, bytes, problems, tally, isReady }: VerifiedPackage): string {
  return [
    ...problems.slice(0, SHOWN).map(({ code, file, message }) => `${code}  ${file}  ${message}`),
    ...(problems.length > SHOWN ? [`… and ${problems.length - SHOWN} more.`] : []),
    `${files} ${files === 1 ? 'file' : 'files'}, ${sayBytes(bytes)}: ${valid ? 'every one is as it was packed, and nothing else is there.' : 'the package is not as it was packed.'}`,
    ...(tally
      ? ['', checkText(tally), ...(isReady && !tally.ready ? ['What stops it was waived when it was packed.'] : [])]
      : ['There is no brief in it: its frames cannot be counted.']),
  ].join('\n');
}
