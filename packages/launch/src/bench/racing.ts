import { spawnSync } from 'node:child_process';

/** Each work is timed against its yardstick this often, in turns; the fastest of each counts. */
const ROUNDS = 5;

/** A work, and what it is held against. */
export interface Row {
  readonly work: string;
  readonly yardstick: string;
  readonly ours: number;
  readonly theirs: number;
  /** Times the yardstick at most; null where there is no aim. */
  readonly aim: number | null;
}

/** Prints them for people. */
export function printTable(rows: readonly Row[]): void {
  const cells = rows.map((row) => [
    row.work,
    row.yardstick,
    `${row.ours.toFixed(0)} ms`,
    `${row.theirs.toFixed(0)} ms`,
    `${(row.ours / row.theirs).toFixed(2)} x`,
    row.aim === null ? '' : `${row.aim} x`,
    row.aim === null ? 'no aim' : row.ours / row.theirs <= row.aim ? 'met' : 'missed',
  ]);
  const table = [['work', 'against', 'ours', 'theirs', 'ratio', 'aim', ''], ...cells];
  const widths = table[0]!.map((_, column) => Math.max(...table.map((line) => line[column]!.length)));
  for (const line of table)
    console.log(
      line
        .map((cell, column) => cell.padEnd(widths[column]))
        .join('  ')
        .trimEnd(),
    );
}

/** The fastest of some rounds, in milliseconds: of ours and of the yardstick, by turns, so that a stall of the machine meets both. */
export async function race(work: () => unknown, yardstick: () => unknown): Promise<{ ours: number; theirs: number }> {
  let [ours, theirs] = [Infinity, Infinity];
  for (let round = 0; round < ROUNDS; round++) {
    ours = Math.min(ours, await timed(work));
    theirs = Math.min(theirs, await timed(yardstick));
  }
  return { ours, theirs };
}

export async function timed(work: () => unknown): Promise<number> {
  const began = performance.now();
  await work();
  return performance.now() - began;
}

export function command(program: string, argv: readonly string[]): void {
  const { status, error } = spawnSync(program, argv, { stdio: ['ignore', 'ignore', 'ignore'], maxBuffer: 1 << 30 });
  if (error || (status !== 0 && program !== 'pngcheck')) throw new Error(`${program} failed: ${error?.message ?? `status ${status}`}`);
}

export function shell(line: string): void {
  command('sh', ['-c', line]);
}

/** The fastest of some rounds, in milliseconds. */
export async function timesOf(work: () => unknown): Promise<number> {
  let least = Infinity;
  for (let round = 0; round < ROUNDS; round++) least = Math.min(least, await timed(work));
  return least;
}
