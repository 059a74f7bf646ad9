import { setTimeout as sleep } from 'node:timers/promises';

/** A part of the application: a process that may end by itself. */
export interface Part {
  readonly name: string;
  /** Resolves when it has ended, with what to say of it. */
  readonly ended: Promise<string>;
  stop(): Promise<void>;
}

/** A part that falls this often within the time given is not worth starting again. */
const MOST_FALLS = 20;
const WITHIN = 5 * 60_000;
const PAUSE = 300;

/**
 * Starts a part, and starts it again whenever it falls. Whatever it was doing stands in the
 * database, so it goes on where it was.
 *
 * @param begin starts the part once; what it throws at the first start is thrown here
 */
export async function keepRunning(begin: () => Promise<Part>, say: (line: string) => void): Promise<Part> {
  let current = await begin();
  const { name } = current;
  let stopping = false;
  const falls: number[] = [];
  const watch = async (): Promise<string> => {
    for (;;) {
      const why = await current.ended;
      if (stopping) return why;
      const now = Date.now();
      falls.push(now);
      while (falls[0] < now - WITHIN) falls.shift();
      if (falls.length > MOST_FALLS) return `${why}, for the ${falls.length}th time in ${WITHIN / 60_000} minutes`;
      say(`mint: ${why}; it is started again.`);
      await sleep(PAUSE);
      if (stopping) return why;
      try {
        current = await begin();
      } catch (thrown) {
        return `${why} and could not be started again: ${thrown instanceof Error ? thrown.message : String(thrown)}`;
      }
      // Somebody may have asked to stop while it started.
      if (stopping) await current.stop();
    }
  };
  const ended = watch();
  return {
    name,
    ended,
    async stop() {
      stopping = true;
      await current.stop();
      await ended;
    },
  };
}
