import { spawn } from 'node:child_process';
import { readFileSync } from 'node:fs';

const LOOK_EVERY = 20;

/** Runs a Node script to its end and gives the most memory that its process held, in bytes. */
export async function peakMemory(argv: readonly string[]): Promise<number> {
  const child = spawn('node', argv, { stdio: 'ignore' });
  let peak = 0;
  // The kernel keeps the high-water mark; the last look before the end is near enough to it.
  const timer = setInterval(() => (peak = Math.max(peak, highWaterMark(child.pid!))), LOOK_EVERY);
  try {
    await new Promise<void>((resolve, reject) => {
      child.once('error', reject);
      child.once('exit', () => resolve());
    });
  } finally {
    clearInterval(timer);
  }
  return peak;
}

function highWaterMark(pid: number): number {
  try {
    return Number(/^VmHWM:\s+(\d+) kB$/m.exec(readFileSync(`/proc/${pid}/status`, 'utf8'))?.[1] ?? 0) * 1024;
  } catch {
    // It has just ended.
    return 0;
  }
}
