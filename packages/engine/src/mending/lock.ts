import { readFileSync, rmSync } from 'node:fs';
import { MintError, SET_ASIDE } from '@mint-tally/core';
import { FileAccessError, HeldFolder, writeWhole } from '@mint-tally/disk';
import { isAlive, THIS_HOST } from '../jobs/this-host.ts';

const LOCK = 'lock';

/** Raised when somebody else mends the same folder. */
export class MendHeldError extends MintError {
  constructor(folder: string, holder: string) {
    super('mend-held', `${folder} is being mended by ${holder}.`, {
      subject: folder,
      remedy: `Wait until it has ended. If nobody is at it any more, take ${SET_ASIDE}/${LOCK} away.`,
    });
  }
}

/** Does something that one at a time does in a folder. A lock whose process is gone is nobody's. @throws MendHeldError */
export async function holdingMends<Result>(folder: string, work: () => Promise<Result>): Promise<Result> {
  const place = HeldFolder.open(folder, SET_ASIDE);
  const own = `process ${process.pid} on ${THIS_HOST}`;
  try {
    for (let turn = 0; ; turn++) {
      try {
        await writeWhole(place, LOCK, own);
        break;
      } catch (thrown) {
        if (!(thrown instanceof FileAccessError) || !place.has(LOCK) || turn > 0) throw thrown;
        const holder = readFileSync(place.at(LOCK), 'utf8');
        if (!isGone(holder)) throw new MendHeldError(folder, holder);
        rmSync(place.at(LOCK), { force: true });
      }
    }
    try {
      return await work();
    } finally {
      rmSync(place.at(LOCK), { force: true });
    }
  } finally {
    place.close();
  }
}

/** Whether a lock is of a process of this computer that is not there any more. */
function isGone(holder: string): boolean {
  const [, process, host] = /^process (\d+) on (.*)$/.exec(holder) ?? [];
  return process !== undefined && host === THIS_HOST && !isAlive(Number(process));
}
