import type { MessagePort } from 'node:worker_threads';
import { tellError, type ToldError } from '../threads/told-error.ts';
import { denoiseStretch, type DenoisedStretch, type DenoiseTask } from './denoise-stretch.ts';

/** What a thread is asked to do. */
export interface DenoiseOrder {
  readonly task: DenoiseTask;
  /** Not 0 when it should stop. */
  readonly stop: Int32Array;
  /** Hears of each frame that is written. */
  readonly told: MessagePort;
}

/** What a thread answers. */
export type DenoiseAnswer = { readonly stretch: DenoisedStretch } | ToldError;

/** Denoises a stretch of frames in a thread of its own. */
export default async function denoise({ task, stop, told }: DenoiseOrder): Promise<DenoiseAnswer> {
  try {
    return { stretch: await denoiseStretch(task, { onFrame: () => told.postMessage(1), isStopped: () => Atomics.load(stop, 0) !== 0 }) };
  } catch (thrown) {
    return tellError(thrown);
  } finally {
    told.close();
  }
}
