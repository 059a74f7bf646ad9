import { sharedBetweenThreads } from '../threads/shared.ts';
import { tellError, type ToldError } from '../threads/told-error.ts';
import { doStep, type Step, type StepDone } from './steps.ts';

/** What a thread answers. */
export type StepAnswer = { readonly done: StepDone } | ToldError;

/** Does a step in a thread of its own; what comes of it lies where all threads see it. */
export default async function denoise(step: Step): Promise<StepAnswer> {
  try {
    return { done: sharedBetweenThreads(await doStep(step)) };
  } catch (thrown) {
    return tellError(thrown);
  }
}
