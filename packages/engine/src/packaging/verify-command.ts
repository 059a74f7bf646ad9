import os from 'node:os';
import { parseArgs } from 'node:util';
import { describeError, MintError, sayBytes } from '@mint-tally/core';
import { folderNamed, type CommandOutcome } from '../check/command.ts';
import { checkObject, checkText } from '../check/report.ts';
import { InspectionPool } from '../inspection/pool.ts';
import { verifyPackage, type VerifiedPackage } from './verify-package.ts';

export const VERIFY_USAGE = 'Usage: ./mint verify FOLDER [--json]';

/** Runs `./mint verify` with no database and no server. Never throws: what fails becomes status 2. */
export async function runVerify(argv: readonly string[], onProgress: (text: string) => void): Promise<CommandOutcome> {
  let pool: InspectionPool | null = null;
  try {
    const { folder, json } = parseVerifyArguments(argv);
    pool = new InspectionPool(os.availableParallelism());
    const found = await verifyPackage(folder, pool, (done, total) => onProgress(`verifying: ${done} of ${total} files`));
    const { valid, isReady } = found;
    return { status: valid && isReady ? 0 : 1, output: json ? JSON.stringify(verifyObject(found), null, 2) : verifyText(found), error: '' };
  } catch (thrown) {
    return { status: 2, output: '', error: `mint verify: ${describeError(thrown).replace(/\s+/g, ' ')}` };
  } finally {
    await pool?.close();
  }
}

/** @throws MintError */
function parseVerifyArguments(argv: readonly string[]): { folder: string; json: boolean } {
  const usage = (why: string) => new MintError('usage', why, { remedy: VERIFY_USAGE });
  let parsed;
  try {
    parsed = parseArgs({ args: [...argv], allowPositionals: true, options: { json: { type: 'boolean', default: false } } });
  } catch (thrown) {
    throw usage(`${(thrown as Error).message.split('\n')[0]!.replace(/\.?$/, '.')}`);
  }
  const [folder, ...more] = parsed.positionals;
  if (folder === undefined || more.length > 0) throw usage(folder === undefined ? 'No folder was named.' : 'More than one folder was named.');
  return { folder: folderNamed(folder), json: parsed.values.json };
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
