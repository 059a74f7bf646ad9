import { openDatabase, type Database } from '@mint-tally/store';
import type { APIRequestContext, Page } from '@playwright/test';
import { expect, type Application } from './application.ts';

/** Saves a shot as the page of a new shot does. Gives its number. */
export async function makeShot(request: APIRequestContext, application: Application, folder: string, brief: object): Promise<number> {
  const { address } = application;
  const response = await request.post(`${address}/shots/new?/save`, {
    headers: { origin: address, accept: 'application/json' },
    form: { root: 'shots', folder, note: '', brief: JSON.stringify(brief) },
  });
  const { location } = (await response.json()) as { location: string };
  return Number(/\/shots\/(\d+)\//.exec(location)![1]);
}

export function askForCount(request: APIRequestContext, { address }: Application, shot: number) {
  return request.post(`${address}/shots/${shot}/tally?/count`, { headers: { origin: address, accept: 'application/json' }, form: {} });
}

/** The application's own database, from outside: what stands there is what counts. */
export function databaseOf({ database }: Application): Database {
  if (database === null) throw new Error('This application has a database server of its own.');
  return openDatabase(database);
}

/** One text for everything that people have decided: it changes when anything of it does. */
export async function decisions(database: Database): Promise<string> {
  const rows = await database.rows('CHECKSUM TABLE shots, briefs, waivers, specifications, packages, merges, merge_steps, batches, jobs');
  return JSON.stringify(rows);
}

/** Has a job of a shot end that somebody else asked for, and waits until the page has read everything anew because of it. */
export async function renew(page: Page, application: Application, shot: number): Promise<void> {
  const renewed = page.waitForResponse((response) => response.url().includes('__data.json'));
  await askForCount(page.request, application, shot);
  await renewed;
  // What the answer changes on the page is there with the next picture.
  await page.evaluate(() => new Promise((resolve) => requestAnimationFrame(() => requestAnimationFrame(resolve))));
}

/** Waits until nothing runs any more. */
export async function untilQuiet(database: Database): Promise<void> {
  await expect.poll(async () => (await database.rows("SELECT id FROM jobs WHERE state IN ('queued', 'running')")).length).toBe(0);
}
