import path from 'node:path';
import type { Piscina } from 'piscina';
import { servicesFolder } from '../config/project.ts';
import { answerOf } from '../threads/told-error.ts';
import type { MendCare } from './carry-out.ts';
import type { MakeAnswer, MakeOrder } from './make-worker.ts';

/** Threads that make files of others, begun when the first is wanted. */
export interface Makers {
  readonly care: Required<Pick<MendCare, 'make' | 'makers'>>;
  readonly close: () => Promise<void>;
}

export function makersFor(threads: number): Makers {
  let started: Promise<Piscina<MakeOrder, MakeAnswer>> | null = null;
  const start = async () => {
    const { Piscina } = await import('piscina');
    return new Piscina<MakeOrder, MakeAnswer>({ filename: path.join(servicesFolder(), 'make-worker.js'), maxThreads: threads });
  };
  return {
    care: {
      // One is written while the others are made.
      makers: threads + 1,
      make: async (folder, step) => answerOf(await (await (started ??= start())).run({ folder, step })).bytes,
    },
    close: async () => (await started)?.destroy(),
  };
}
