import type { Database, Dedicated, Queryable } from './database.ts';

/**
 * How engines hear of a new job without asking again and again. An engine that has nothing to do waits
 * in a statement that sleeps for a second; whoever asks for a job breaks off all statements of that
 * kind, once the job can be seen. The database is the only meeting point; a ring that is lost costs a
 * second.
 */
const MARK = 'mint_tally_bell';
const WAIT_SECONDS = 1;

/** Wakes every engine that waits. */
export async function ringBell(on: Queryable): Promise<void> {
  // One's own threads may be seen and broken off without any privilege.
  const waiting = await on.rows(
    `SELECT id FROM information_schema.processlist WHERE command = 'Query' AND db = DATABASE() AND info LIKE 'SELECT /* ${MARK} */%'`,
  );
  // One that has stopped waiting in this moment is gone, or does nothing that could be broken off.
  for (const { id } of waiting) await on.rows(`KILL QUERY ${Number(id)}`).catch(() => undefined);
}

/** The ear of an engine: waits for the bell on a connection of its own. */
export class Bell {
  private readonly database: Database;
  private connection: Dedicated | null = null;
  private closed = false;
  /** The newest job when it last came back. */
  private seen = 0;

  constructor(database: Database) {
    this.database = database;
  }

  /**
   * Comes back with true when there may be a job to take: somebody rang, there is a job that was not
   * there before, or one lies there that its engine let go of or fell with. With false after a quiet second.
   *
   * @param held jobs that this engine works on
   * @param lying whether jobs that were let go of are a reason to come back; not when they have just been refused
   * @throws whatever the database throws when it is away
   */
  async wait(held: readonly number[], lying: boolean): Promise<boolean> {
    if (this.closed) return false;
    try {
      this.connection ??= await this.database.dedicated();
      const row = (
        await this.connection.rows(
          `SELECT /* ${MARK} */ newest, IF(newest > ? OR (? AND lying), 1, 2 * SLEEP(${WAIT_SECONDS})) AS heard FROM (SELECT
           (SELECT COALESCE(MAX(id), 0) FROM jobs) AS newest,
           EXISTS (SELECT 1 FROM jobs WHERE state = 'running' AND (lease_until IS NULL OR lease_until < UTC_TIMESTAMP(3)) AND id NOT IN (${['0', ...held.map(() => '?')].join()})) AS lying) AS now`,
          [this.seen, lying, ...held],
        )
      )[0]!;
      this.seen = Math.max(this.seen, Number(row.newest));
      return Number(row.heard) !== 0;
    } catch (thrown) {
      if ((thrown as { code?: string }).code === 'ER_QUERY_INTERRUPTED') return true;
      if (this.closed) return false;
      this.connection?.close();
      this.connection = null;
      throw thrown;
    }
  }

  close(): void {
    this.closed = true;
    this.connection?.close();
  }
}
