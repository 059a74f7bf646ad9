import { setTimeout as sleep } from 'node:timers/promises';

/** A part of the application: a process that may end by itself. */
export interface Part {
  readonly name: string;
  /** Resolves when it has ended, with what to say of it. */
  readonly ended: Promise<string>;
  stop(): Promise<void>;
}

/** A part that falls this often within the time given, or cannot be started as often, is not worth another try. */
const MOST_FALLS = 20;
const WITHIN = 5 * 60_000;
/** Before it is started again, in milliseconds: longer each time that did not work. */
const FIRST_PAUSE = 300;
const LONGEST_PAUSE = 15_000;

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
  /** Why it is given up; null while it may be tried again. */
  const noteFall = (why: string): string | null => {
    const now = Date.now();
    falls.push(now);
    while (falls[0] < now - WITHIN) falls.shift();
    return falls.length > MOST_FALLS ? `${why}, for the ${falls.length}th time in ${WITHIN / 60_000} minutes` : null;
  };
  /** Starts it again; one try that fails is no reason to end everything else. Gives why it is given up, or null. */
  const restart = async (why: string): Promise<string | null> => {
    say(`mint: ${why}; it is started again.`);
    for (let pause = FIRST_PAUSE; !stopping; pause = Math.min(LONGEST_PAUSE, pause * 2)) {
      await sleep(pause);
      if (stopping) return null;
      try {
        current = await begin();
        // Somebody may have asked to stop while it started.
        if (stopping) await current.stop();
        return null;
      } catch (thrown) {
        const reason = `the ${name} could not be started again: ${thrown instanceof Error ? thrown.message : String(thrown)}`;
        const givenUp = noteFall(reason);
        if (givenUp !== null) return givenUp;
        say(`mint: ${reason} It is tried once more.`);
      }
    }
    return null;
  };
  const watch = async (): Promise<string> => {
    for (;;) {
      const why = await current.ended;
      if (stopping) return why;
      const givenUp = noteFall(why) ?? (await restart(why));
      if (givenUp !== null) return givenUp;
      if (stopping) return why;
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
