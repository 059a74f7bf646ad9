import { spawn } from 'node:child_process';
import { readFileSync } from 'node:fs';
import path from 'node:path';
import { servicesFolder } from '@mint-tally/engine';
import { WEB_SERVER_FLAGS } from '../../children.ts';
import { findFreePort } from '../../ports.ts';

/** A web server on a database, for measuring. */
export interface MeasuredServer {
  readonly address: string;
  /** Memory that it has taken at most so far, in bytes. */
  readonly peak: () => number;
  /** Processor time that it has used so far, in seconds. */
  readonly processorSeconds: () => number;
  readonly stop: () => Promise<void>;
}

export async function startWebServer(databaseUrl: string, environment: Readonly<Record<string, string>>): Promise<MeasuredServer> {
  const port = String(await findFreePort());
  const address = `http://127.0.0.1:${port}`;
  const child = spawn(process.execPath, [...WEB_SERVER_FLAGS, path.join(servicesFolder(), 'web-server.js')], {
    env: { ...process.env, ...environment, MINT_TALLY_DATABASE_URL: databaseUrl, HOST: '127.0.0.1', PORT: port, ORIGIN: address, BODY_SIZE_LIMIT: 'Infinity' },
    stdio: ['ignore', 'ignore', 'inherit', 'ipc'],
  });
  await new Promise<void>((resolve, reject) => {
    child.once('message', () => resolve());
    child.once('exit', (status) => reject(new Error(`The web server ended with ${status}.`)));
  });
  const proc = (name: string) => readFileSync(`/proc/${child.pid}/${name}`, 'utf8');
  return {
    address,
    peak: () => Number(/VmHWM:\s+(\d+)/.exec(proc('status'))![1]) * 1024,
    processorSeconds: () => {
      const fields = proc('stat')
        .replace(/^.*\) /s, '')
        .split(' ');
      // utime and stime, in ticks of a hundredth (proc(5)).
      return (Number(fields[11]) + Number(fields[12])) / 100;
    },
    stop: () =>
      new Promise((resolve) => {
        child.once('exit', () => resolve());
        child.kill('SIGTERM');
      }),
  };
}
