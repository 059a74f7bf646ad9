import path from 'node:path';
import { Piscina } from 'piscina';
import { servicesFolder } from '../config/project.ts';
import { answerOf, type ToldError } from '../threads/told-error.ts';
import type { Proposal } from './propose-worker.ts';

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
    return answerOf(await this.pool.run(folder));
  }

  async close(): Promise<void> {
    await this.pool.destroy();
  }
}
