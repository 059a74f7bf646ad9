import { mkdirSync, mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import os from 'node:os';
import path from 'node:path';
import { setTimeout as sleep } from 'node:timers/promises';
import { projectFolder } from '@mint-tally/engine';
import { migrate, openDatabase } from '@mint-tally/store';
import { startOwnServer } from '../../database/own-server.ts';
import { addOldJobs, addShot } from './large-project.ts';
import { startWebServer, type MeasuredServer } from './web-server.ts';

/**
 * Measures the pages of a project that has grown: a shot of 20 passes of 10,000 frames among others,
 * 200,000 jobs that ended long ago, and people who look at it without pause.
 */
const PEOPLE = 50;
const CROWD_SECONDS = 15;
const WARMING_SECONDS = 3;

const top = mkdtempSync(path.join(os.tmpdir(), 'mint-pages-'));
const own = await startOwnServer(path.join(top, 'database'), () => undefined);
try {
  const database = openDatabase(own.url);
  await migrate(database, path.join(projectFolder(), 'packages', 'store', 'migrations'));
  const large = await addShot(database, 'orr_large', 10_000);
  const shots = [large];
  for (let i = 1; i <= 30; i++) shots.push(await addShot(database, `orr_${String(i * 10).padStart(3, '0')}`, 120, ['beauty', 'depth', 'normal']));
  await addOldJobs(database, shots, 200_000);
  const config = path.join(top, 'config.json');
  mkdirSync(path.join(top, 'data', 'demo'), { recursive: true });
  writeFileSync(config, JSON.stringify({ demo: true }));
  const server = await startWebServer(own.url, { MINT_TALLY_CONFIG: config, MINT_TALLY_DATA: path.join(top, 'data') });
  try {
    const pages: [string, string, number][] = [
      ['list of shots', '/', 400],
      ['tally, 20 x 10,000', `/shots/${large}/tally`, 200],
      ['brief, 20 x 10,000', `/shots/${large}/brief`, 500],
      ['batch, 20 x 10,000', `/shots/${large}/batch`, 500],
      ['handoff, 20 x 10,000', `/shots/${large}/handoff`, 500],
      ['first rows of its files', `/shots/${large}/rows?sort=path&down=0&text=&pass=&only=all&from=0&count=200`, 1000],
      ['tally of a small shot', `/shots/${shots[1]}/tally`, 200],
    ];
    for (const [name, address, aim] of pages) print(name, await visits(server, address), aim);
    await measureListener(server);
    await measureCrowd(server, shots);
    console.log(`web server at its peak      ${(server.peak() / 1e6).toFixed(0)} MB, aim 400 MB`);
  } finally {
    await server.stop();
    await database.close();
  }
} finally {
  await own.stop();
  rmSync(top, { recursive: true, force: true });
}

function print(name: string, { first, median, bytes }: Visits, aim: number): void {
  console.log(
    `${name.padEnd(28)}first ${first.toFixed(0).padStart(5)} ms  then ${median.toFixed(0).padStart(5)} ms  ${(bytes / 1000).toFixed(0).padStart(5)} kB  aim ${aim} ms  ${median <= aim ? 'met' : 'missed'}`,
  );
}

interface Visits {
  readonly first: number;
  readonly median: number;
  readonly bytes: number;
}

async function visit(server: MeasuredServer, address: string): Promise<{ took: number; bytes: number }> {
  const began = performance.now();
  const answer = await fetch(server.address + address, { headers: { accept: 'text/html,*/*' } });
  const { byteLength } = await answer.arrayBuffer();
  if (!answer.ok) throw new Error(`${address} answers ${answer.status}.`);
  return { took: performance.now() - began, bytes: byteLength };
}

async function visits(server: MeasuredServer, address: string): Promise<Visits> {
  const first = await visit(server, address);
  const times = [];
  for (let i = 0; i < 9; i++) times.push((await visit(server, address)).took);
  return { first: first.took, median: times.sort((a, b) => a - b)[4], bytes: first.bytes };
}

/** What one page that listens for news costs while nothing happens. */
async function measureListener(server: MeasuredServer): Promise<void> {
  const stop = new AbortController();
  const listening = fetch(`${server.address}/events`, { signal: stop.signal }).then((answer) => answer.arrayBuffer());
  listening.catch(() => undefined);
  await sleep(1000);
  const [used, began] = [server.processorSeconds(), performance.now()];
  await sleep(5000);
  const share = ((server.processorSeconds() - used) / (performance.now() - began)) * 1e5;
  stop.abort();
  console.log(`one page that listens       ${share.toFixed(1)} % of a core`);
}

/** People who look at one page after the other without pause: from the first second, in which nothing is in memory yet, and once it is. */
async function measureCrowd(server: MeasuredServer, shots: readonly number[]): Promise<void> {
  const seen: { at: number; took: number }[] = [];
  const began = performance.now();
  const until = began + CROWD_SECONDS * 1000;
  await Promise.all(
    Array.from({ length: PEOPLE }, async (_, person) => {
      for (let turn = 0; performance.now() < until; turn++) {
        const shot = shots[1 + ((person * 7 + turn * 3) % (shots.length - 1))];
        const address = ['/', `/shots/${shot}/tally`, `/shots/${shot}/brief`, `/shots/${shot}/handoff`][(person + turn) % 4]!;
        const { took } = await visit(server, address);
        seen.push({ at: performance.now() - began, took });
      }
    }),
  );
  const warm = seen.filter(({ at }) => at > WARMING_SECONDS * 1000);
  for (const [name, visits, seconds] of [
    ['from the first second', seen, CROWD_SECONDS],
    ['once warm', warm, CROWD_SECONDS - WARMING_SECONDS],
  ] as const) {
    const times = visits.map(({ took }) => took).sort((a, b) => a - b);
    const share = (part: number) => times[Math.floor((times.length - 1) * part)].toFixed(0);
    console.log(
      `${PEOPLE} people, ${name.padEnd(21)}  ${(times.length / seconds).toFixed(0)} pages a second  p50 ${share(0.5)} ms  p95 ${share(0.95)} ms, aim 400 ms`,
    );
  }
}
