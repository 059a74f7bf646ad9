import type { Database, Queryable } from './database.ts';
import { noteFall } from './leases.ts';

/** Notes that an engine is there; called again and again while it is. */
export async function notePresence(on: Queryable, engine: { id: string; host: string; processId: number }): Promise<void> {
  await on.change(
    `INSERT INTO engines (id, host, process_id, started_at, seen_at) VALUES (?, ?, ?, UTC_TIMESTAMP(3), UTC_TIMESTAMP(3))
       ON DUPLICATE KEY UPDATE seen_at = VALUES(seen_at)`,
    [engine.id, engine.host, engine.processId],
  );
}

export async function noteAbsence(on: Queryable, engineId: string): Promise<void> {
  await on.change('DELETE FROM engines WHERE id = ?', [engineId]);
}

/** Engines that were there in the last seconds. */
export async function countEngines(on: Queryable): Promise<number> {
  const row = (await on.rows('SELECT COUNT(*) AS number FROM engines WHERE seen_at > UTC_TIMESTAMP(3) - INTERVAL 15 SECOND'))[0]!;
  return row.number;
}

/**
 * Frees the jobs of engines on this host whose process is gone, so that nobody waits for their
 * leases to run out.
 *
 * @param host as the engines noted it
 */
export async function releaseFallenEngines(database: Database, host: string, isAlive: (processId: number) => boolean): Promise<void> {
  const rows = await database.rows('SELECT id, process_id FROM engines WHERE host = ?', [host]);
  for (const { id, process_id: processId } of rows) {
    if (isAlive(processId as number)) continue;
    await database.transaction(async (inside) => {
      const jobs = await inside.rows("SELECT id FROM jobs WHERE lease_owner = ? AND state = 'running' FOR UPDATE", [id as string]);
      for (const job of jobs) await noteFall(inside, job.id as number);
      await inside.change('DELETE FROM engines WHERE id = ?', [id as string]);
    });
  }
}
