import { writeFileSync } from 'node:fs';
import os from 'node:os';
import path from 'node:path';
import { describeError, sayBytes } from '@mint-tally/core';
import { accessError, isInside } from '@mint-tally/disk';
import { folderNamed, type CommandOutcome } from '../check/command.ts';
import { checkObject, checkText } from '../check/report.ts';
import { UsageError, wordsOf } from '../check/words.ts';
import { InspectionPool } from '../inspection/pool.ts';
import { receiptOf } from './receipt-of.ts';
import { verifyPackage, type VerifiedPackage } from './verify-package.ts';

export const VERIFY_USAGE = 'Usage: ./mint verify FOLDER [--receipt FILE.json] [--person NAME] [--json]';

/** Runs `./mint verify` with no database and no server. Never throws: what fails becomes status 2. */
export async function runVerify(argv: readonly string[], onProgress: (text: string) => void): Promise<CommandOutcome> {
  let pool: InspectionPool | null = null;
  try {
    const { folder, json, receipt, person } = parseVerifyArguments(argv);
    pool = new InspectionPool(os.availableParallelism());
    const found = await verifyPackage(folder, pool, (phase, done, total) => onProgress(`${phase}: ${done} of ${total} files`));
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

/** Writes what goes back to whoever sent the package. @throws MintError */
function writeReceipt(file: string, found: VerifiedPackage, person: string): void {
  const receipt = receiptOf(found, person, new Date());
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
