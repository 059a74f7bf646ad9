import { readFileSync, readlinkSync } from 'node:fs';
import os from 'node:os';

/** This computer, its present run and its numbering of processes: where process numbers mean what they say. */
export const THIS_HOST = [
  os.hostname(),
  read(() => readFileSync('/proc/sys/kernel/random/boot_id', 'utf8').trim()),
  read(() => readlinkSync('/proc/self/ns/pid')),
].join(' ');

function read(from: () => string): string {
  try {
    return from();
  } catch {
    return '';
  }
}

export function isAlive(processId: number): boolean {
  try {
    process.kill(processId, 0);
    return true;
  } catch (thrown) {
    return (thrown as NodeJS.ErrnoException).code !== 'ESRCH';
  }
}
