import { existsSync, mkdirSync, utimesSync, writeFileSync } from 'node:fs';
import path from 'node:path';
import { setTimeout as sleep } from 'node:timers/promises';
import { gateNames, isMeasured } from '@mint-tally/core';
import { addWaiver, createMerge, listPackages, mergeRequestSchema, newestTally, requestJob } from '@mint-tally/store';
import { checksum, namesIn, picture, verifies, victims, World, type Victim } from './world.ts';

/**
 * Lets engine and database fall at chosen places, again and again, and looks what has become of it:
 * `node build/services/falls.js PLACE TIMES`. Prints how many of the tries came out right.
 */
const [place = 'package', times = '10'] = process.argv.slice(2);
const world = new World();
await world.begin();

/** Gives what was wrong with a try; empty when all was right. */
type Try = (turn: number, victim: Victim) => Promise<string>;
const tries: Record<string, Try> = {
  package: packageName,
  merge: (turn, victim) => mergeStep(turn, victim, 'run'),
  undo: (turn, victim) => mergeStep(turn, victim, 'undo'),
  count: countAnywhere,
  pause: pauseLonger,
};

const wrong: string[] = [];
const counts: Record<Victim, [right: number, all: number]> = { engine: [0, 0], database: [0, 0], both: [0, 0] };
for (let turn = 0; turn < Number(times); turn++) {
  const victim = victims[turn % victims.length]!;
  const trouble = await tries[place]!(turn, victim).catch((thrown: unknown) => `threw ${String(thrown)}`);
  counts[victim][1]++;
  if (trouble === '') counts[victim][0]++;
  else wrong.push(`try ${turn} (${victim}): ${trouble}`);
}
console.log(`${place}: ${victims.map((victim) => `${victim} ${counts[victim].join('/')}`).join(', ')}`);
for (const line of wrong) console.log(`  ${line}`);
await world.end();

async function until(holds: () => boolean, milliseconds = 60_000): Promise<boolean> {
  for (const end = performance.now() + milliseconds; performance.now() < end;) {
    if (holds()) return true;
    // As quick as can be: what is waited for lasts a millisecond or two.
    await new Promise((resolve) => setImmediate(resolve));
  }
  return false;
}

/** Between a package's final name and the end of its job. */
async function packageName(turn: number, victim: Victim): Promise<string> {
  const name = `p${turn}`;
  const shot = await world.makeShot(name, 12, turn * 100);
  await world.ended(await world.ask((database) => requestJob(database, shot, { kind: 'count' }, 'falls')));
  const { content } = (await newestTally(world.database, shot))!;
  for (const gate of gateNames.filter((one) => !isMeasured(one))) {
    await world.database.transaction((inside) =>
      addWaiver(inside, shot, { subject: { kind: 'gate', gate, content }, person: 'Ada', reason: 'watched' }, 'falls'),
    );
  }
  const target = world.at('packages', 'reel', name);
  const job = await world.ask((database) => requestJob(database, shot, { kind: 'package', root: 'packages', folder: `reel/${name}`, person: 'Ada' }, 'falls'));
  if (!(await until(() => existsSync(target)))) return 'the package never got its name';
  await world.fell(victim);
  const { state, error } = await world.ended(job);
  if (state !== 'done') return `the job ${state}: ${error}`;
  const written = await world.ask((database) => listPackages(database, shot));
  if (written.length !== 1) return `${written.length} packages are recorded`;
  if (!verifies(target)) return 'the package does not verify';
  const left = namesIn(world.at('packages', 'reel')).filter((one) => one.startsWith('.'));
  return left.length > 0 ? `left behind: ${left.join()}` : '';
}

/** Somewhere in the middle of a merge that replaces files, or of taking it back. */
async function mergeStep(turn: number, victim: Victim, action: 'run' | 'undo'): Promise<string> {
  const name = `${action}${turn}`;
  const frames = 24;
  const shot = await world.makeShot(name, frames, turn * 1000);
  const source = world.at('disks', name);
  mkdirSync(source);
  const file = (folder: string, frame: number) => path.join(folder, `f.${1000 + frame}.png`);
  const own = world.at('shots', name);
  for (let frame = 1; frame <= frames; frame++) {
    writeFileSync(file(source, frame), picture(turn * 1000 + 500 + frame));
    utimesSync(file(source, frame), 4e9, 4e9);
  }
  const checksums = (folder: string) => Array.from({ length: frames }, (_, i) => checksum(file(folder, i + 1)));
  const [old, fresh] = [checksums(own), checksums(source)];
  const way = (['copy', 'move', 'link'] as const)[Math.floor(turn / 3) % 3];
  const request = mergeRequestSchema.parse({ sources: [{ root: 'disks', folder: name }], rule: 'newer', way });
  const merge = await world.ask((database) => createMerge(database, shot, request, 'falls'));
  const act = (what: 'preview' | 'run' | 'undo') => world.ask((database) => requestJob(database, shot, { kind: 'merge', merge, action: what }, 'falls'));
  await world.ended(await act('preview'));
  if (action === 'undo') await world.ended(await act('run'));
  const job = await act(action);
  const reached = 1 + ((turn * 7) % (frames - 2));
  const from = action === 'run' ? 1 + reached : frames - reached;
  const wanted = action === 'run' ? fresh : old;
  // At a file of the row in turn, before or after it.
  await until(() => checksum(file(own, from)) === wanted[from - 1] || checksum(file(own, from)) === '', 20_000);
  await world.fell(victim);
  let end = await world.ended(job);
  if (end.state === 'failed') end = await world.ended(await act(action));
  if (end.state !== 'done') return `${way}: the job ${end.state}: ${end.error}`;
  for (let frame = 1; frame <= frames; frame++) {
    if (checksum(file(own, frame)) !== wanted[frame - 1]) return `${way}: frame ${1000 + frame} is not as it should be`;
    const isAway = action === 'run' && way === 'move';
    if (checksum(file(source, frame)) !== (isAway ? '' : fresh[frame - 1])) return `${way}: the source of frame ${1000 + frame} is not as it should be`;
  }
  const left = namesIn(own).filter((one) => one.endsWith('.part'));
  return left.length > 0 ? `${way}: left behind: ${left.join()}` : '';
}

/** At any moment of a count: while files are looked into, facts written, the tally saved. */
async function countAnywhere(turn: number, victim: Victim): Promise<string> {
  const name = `c${turn}`;
  const shot = await world.makeShot(name, 400, turn * 1000);
  const job = await world.ask((database) => requestJob(database, shot, { kind: 'count' }, 'falls'));
  await sleep(20 + ((turn * 37) % 700));
  await world.fell(victim);
  const { state, error } = await world.ended(job);
  if (state !== 'done') return `the job ${state}: ${error}`;
  const counted = await world.ask((database) => newestTally(database, shot));
  return counted?.tally.passes[0]!.sound === 400 ? '' : `it counted ${counted?.tally.passes[0]!.sound ?? 'nothing'}`;
}

/** An engine that is paused for longer than its lease while another is there, and then goes on. */
async function pauseLonger(turn: number): Promise<string> {
  const shots = [await world.makeShot(`w${turn}a`, 1500, turn * 5000), await world.makeShot(`w${turn}b`, 1500, turn * 5000 + 2000)];
  const jobs = [];
  for (const shot of shots) jobs.push(await world.ask((database) => requestJob(database, shot, { kind: 'count' }, 'falls')));
  await sleep(400);
  world.pauseEngine();
  const other = turn % 2 === 0 ? await world.startEngine(false) : null;
  await sleep(21_500);
  world.continueEngine();
  let trouble = '';
  for (const [i, job] of jobs.entries()) {
    const { state, error } = await world.ended(job);
    const counted = await world.ask((database) => newestTally(database, shots[i]));
    const { number } = (await world.ask((database) => database.rows('SELECT COUNT(*) AS number FROM tallies WHERE shot_id = ?', [shots[i]])))[0]!;
    if (state !== 'done') trouble = `the job ${state}: ${error}`;
    else if (counted?.tally.passes[0]!.sound !== 1500) trouble = 'it counted wrong';
    else if (number !== 1) trouble = `it was counted ${number} times`;
  }
  other?.kill('SIGTERM');
  return trouble;
}
