import path from 'node:path';
import { MintError } from '@mint-tally/core';
import { Piscina } from 'piscina';
import { servicesFolder } from '../config/project.ts';
import type { Proposal, ToldError } from './propose-worker.ts';

/** Works out proposals in a thread of its own, one at a time: a folder of a million odd names keeps nobody else waiting. */
export class Proposer {
  private readonly pool = new Piscina<string, Proposal | ToldError>({
    filename: path.join(servicesFolder(), 'propose-worker.js'),
    minThreads: 0,
    maxThreads: 1,
    idleTimeout: 10_000,
  });

  /**
   * The brief that a folder's content suggests.
   *
   * @param folder real path
   * @throws MintError
   */
  async propose(folder: string): Promise<Proposal> {
    const answer = await this.pool.run(folder);
    if (!('told' in answer)) return answer;
    const { code, message, subject, remedy } = answer.told;
    throw new MintError(code, message, { subject, remedy });
  }

  async close(): Promise<void> {
    await this.pool.destroy();
  }
}
