import { setTimeout as sleep } from 'node:timers/promises';
import { assayUnderWay } from '@mint-tally/store';
import { countShot, type ShotCount } from './count-shot.ts';
import type { JobControl } from './job-control.ts';
import type { JobTools } from './job-tools.ts';

/** How often it is asked whether the shot is being measured, in milliseconds. */
const ASK_EVERY = 500;

/**
 * Counts a shot. What an assay of it has yet to read is left to that, which looks into files as it decodes them: so each is
 * decoded once for both. Files that came since the assay began are counted at once; where others were left, the count
 * ends when the assay has. Null when it was stopped.
 *
 * @throws MintError
 */
export async function countLeaving(tools: JobTools, control: JobControl): Promise<ShotCount | null> {
  const { database } = tools;
  const { shotId } = control.job;
  let assaySince = await assayUnderWay(database, shotId);
  const ended = new AbortController();
  const watching = (async () => {
    while (!ended.signal.aborted) {
      await sleep(ASK_EVERY, undefined, { signal: ended.signal }).catch(() => undefined);
      // While the database is away the last answer stands.
      assaySince = await assayUnderWay(database, shotId).catch(() => assaySince);
    }
  })();
  try {
    for (;;) {
      const count = await countShot(tools, control, { leaves: ({ modified }) => assaySince !== null && modified < assaySince.getTime() });
      if (count !== null || control.stopReason !== null) return count;
      control.report({ phase: 'left to the assay', done: 0, total: 0, bytesDone: 0, bytesTotal: 0 });
      while (assaySince !== null && control.stopReason === null) await sleep(ASK_EVERY);
    }
  } finally {
    ended.abort();
    await watching;
  }
}
