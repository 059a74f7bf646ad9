import { sharedBetweenThreads } from '../threads/shared.ts';
import { tellError, type ToldError } from '../threads/told-error.ts';
import { doStep, type Step, type StepDone } from './steps.ts';

/** What a thread is asked to do. */
export interface StepOrder {
  readonly step: Step;
  /** Memory that nobody needs any more: what comes of the step may lie there. */
  readonly spare: SharedArrayBuffer[];
}

/** What a thread answers; what it has not taken of the memory goes back. */
export type StepAnswer = { readonly done: StepDone; readonly spare: readonly SharedArrayBuffer[] } | ToldError;

/** Does a step in a thread of its own; what comes of it lies where all threads see it. */
export default async function denoise({ step, spare }: StepOrder): Promise<StepAnswer> {
  try {
    return { done: sharedBetweenThreads(await doStep(step), spare), spare };
  } catch (thrown) {
    return tellError(thrown);
  }
}
